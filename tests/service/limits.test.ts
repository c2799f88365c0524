import { createServer, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { connect as connectSocket } from 'node:net';
import { type FlowOutcome, PindroError, type StartedRun } from '@pindro/core';
import { Places } from '@pindro/service/parts';
import { expect } from 'chai';
import { scriptedModel } from '../support/scripted-model.js';
import { furnish, until, type Workspace, workspace } from '../support/workspace.js';

/** Work that ends when the test says so. */
function work(name: string, begun: string[]) {
  let end!: () => void;
  const ended = new Promise<FlowOutcome>((resolve) => {
    end = () => resolve({ run: name, state: 'done', result: null });
  });
  const start = (): StartedRun => {
    begun.push(name);
    return { answered: ended, ended };
  };
  return { start, end };
}
const turn = () => new Promise((resolve) => setImmediate(resolve));

describe('places for runs', () => {
  it('go to callers in turns, so that one with many does not hold up one with one', async () => {
    const places = new Places({ atOnce: 1, queue: 100 });
    const begun: string[] = [];
    const signal = new AbortController().signal;
    const all = ['ines 1', 'ines 2', 'ines 3', 'tobias 1', 'marit 1'].map((name) => {
      const one = work(name, begun);
      return { ...one, place: places.start(name.split(' ')[0]!, one.start, signal) };
    });
    for (const name of ['ines 1', 'ines 2', 'tobias 1', 'marit 1', 'ines 3']) {
      await turn();
      expect(begun.at(-1)).to.equal(name);
      const index = ['ines 1', 'ines 2', 'ines 3', 'tobias 1', 'marit 1'].indexOf(name);
      all[index]!.end();
      all[index]!.place.leave();
      all[index]!.place.leave();
    }
    await turn();
    expect(places.state).to.deep.equal({ underWay: 0, queued: 0 });
  });

  it('turn away who comes when the queue is full, and never begin what was cancelled in it', async () => {
    const places = new Places({ atOnce: 1, queue: 4 });
    const begun: string[] = [];
    const stop = new AbortController();
    const first = work('first', begun);
    const place = places.start('ines', first.start, new AbortController().signal);
    const waiting = work('waiting', begun);
    const cancelled = places.start('ines', waiting.start, stop.signal);
    // One caller may have a quarter of the queue.
    const busy = () => places.start('ines', work('more', begun).start, stop.signal);
    expect(busy).to.throw(PindroError).with.property('code', 'workspace_busy');
    stop.abort(new PindroError('cancelled', { what: 'The run' }));
    await turn();
    expect(places.state.queued).to.equal(0);
    // It begins only to record that it was cancelled, and takes no place.
    expect(begun).to.deep.equal(['first', 'waiting']);
    waiting.end();
    await cancelled.ended;
    expect(places.state.underWay).to.equal(1);
    first.end();
    place.leave();
    expect(places.state.underWay).to.equal(0);
  });
});

describe('a family of runs', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace({ runsAtOnce: 2, runsQueued: 4 });
  });
  after(() => house.close());

  it('that begins itself without end is stopped, and says by which way', async () => {
    await house.service.flows.drafts.saveDraft(
      'again',
      'format: pindro/flow@1\nname: again\nsteps:\n  e: { kind: each, with: { list: [1, 2, 3, 4], at_once: 4, flow: again, input: {} } }\n',
    );
    const outcome = await house.api.runFlow({ name: 'again', body: {} });
    expect(outcome.state).to.equal('failed');
    const { runs } = await house.api.status();
    expect(runs).to.be.at.most(1001);
    const { findings } = await house.api.getRun({ id: outcome.run });
    expect(findings.map(({ title }) => title).join()).to.match(/again → again → …|again → again/);
  });

  it('of an agent that comes to its own flow by a step of another, which nobody sees as it is drawn, is stopped as well', async () => {
    const model = await scriptedModel([{ calls: [{ name: 'wall', arguments: {} }] }]);
    await house.api
      .addModel({ body: { name: 'm', dialect: 'chat-completions', base: model.url, model: 'm' } })
      .catch(() => null);
    expect(house.service.models.names()).to.deep.equal(['m']);
    const { flows } = house.service;
    await flows.drafts.saveDraft(
      'wall',
      'format: pindro/flow@1\nname: wall\nsteps: { back: { kind: flow, with: { flow: echo-chamber, input: {} } } }\n',
    );
    await flows.drafts.saveDraft(
      'echo-chamber',
      'format: pindro/flow@1\nname: echo-chamber\nsteps:\n  a: { kind: agent, with: { model: m, message: hello, limits: { rounds: 1 }, toolbox: [{ flow: wall }] } }\n',
    );
    const before = (await house.api.status()).runs;
    const outcome = await house.api.runFlow({ name: 'echo-chamber', body: {} });
    expect(outcome.state).to.equal('failed');
    expect((await house.api.status()).runs - before).to.be.at.most(1001);
    await model.close();
  });

  it('takes one place, and who finds none is told when to come back', async () => {
    // The gate opens when everybody has been told, so that it does not matter how quickly they come.
    const resting: ServerResponse[] = [];
    const gate = createServer((_request, response) => {
      resting.push(response);
    });
    await new Promise<void>((done) => gate.listen(0, '127.0.0.1', done));
    const url = `http://127.0.0.1:${(gate.address() as AddressInfo).port}/`;
    house.service.flows.drafts.save(
      `format: pindro/flow@1\nname: nap\nsteps:\n  rest: { kind: http, with: { url: "${url}" } }\n`,
    );
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: naps\nsteps:\n  all: { kind: each, with: { list: [1, 2, 3], at_once: 3, flow: nap, input: {} } }\n',
    );
    const refused: string[] = [];
    const outcomes = Array.from({ length: 8 }, () =>
      house.api.runFlow({ name: 'naps', body: {} }).then(
        ({ state }) => state as string,
        ({ problem }: { problem: { code: string; status: number; hint: string } }) => {
          refused.push(`${problem.code} ${problem.status} ${problem.hint}`);
          return 'refused';
        },
      ),
    );
    // Two are under way, and one caller may have one waiting.
    await until(() => refused.length === 5 && resting.length === 6, 'five to be turned away and two to be under way');
    const answer = await fetch(`${house.service.url}/api/v1/flows/naps/run`, {
      method: 'POST',
      headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
      body: '{}',
    });
    expect([answer.status, answer.headers.get('retry-after')]).to.deep.equal([503, '5']);
    gate.removeAllListeners('request').on('request', (_request, response: ServerResponse) => response.end());
    for (const response of resting) response.end();
    expect((await Promise.all(outcomes)).filter((one) => one === 'done')).to.have.length(3);
    for (const one of refused) expect(one).to.match(/workspace_busy 503 Retry in 5 s/);
    gate.closeAllConnections();
    gate.close();
  });

  it('that waits for a person takes no place from others', async () => {
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: asks\nsteps:\n  ask: { kind: approve, with: { title: Go? } }\n',
    );
    for (let n = 0; n < 5; n++) expect((await house.api.runFlow({ name: 'asks', body: {} })).state).to.equal('waiting');
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: nap\nsteps:\n  rest: { kind: wait, with: { for: 10ms } }\n',
    );
    expect((await house.api.runFlow({ name: 'nap', body: {} })).state).to.equal('done');
  });
});

describe('what others send back', () => {
  it('is taken up to a limit that is named: web answers, tool servers, models', async function () {
    this.timeout(60_000);
    const house = await workspace();
    const flood = (response: ServerResponse) => {
      response.writeHead(200, { 'content-type': 'application/json' });
      response.write('{"jsonrpc":"2.0","id":1,"result":"');
      const more = () => {
        while (!response.destroyed && response.write('x'.repeat(1 << 20))) {}
        if (!response.destroyed) response.once('drain', more);
      };
      more();
    };
    const server = createServer((_request, response) => flood(response));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    house.service.flows.drafts.save(
      `format: pindro/flow@1\nname: get\nsteps:\n  get: { kind: http, with: { url: "${url}/", max_size: 1 } }\n`,
    );
    const { error } = await house.api.runFlow({ name: 'get', body: {} });
    expect(error).to.include({ code: 'answer_too_large' });
    expect(error!.message).to.match(/returned more than 1 MiB/);
    for (const refused of [
      house.api.attachServer({ body: { name: 'flood', url } }),
      house.api.addModel({ body: { name: 'flood', dialect: 'chat-completions', base: url, model: 'm' } }),
    ]) {
      const told = await refused.then(
        () => '',
        (thrown: { problem: { code: string; detail: string } }) => `${thrown.problem.code}: ${thrown.problem.detail}`,
      );
      expect(told).to.match(/^answer_too_large: .*more than 8 MiB/);
    }
    server.closeAllConnections();
    server.close();
    await house.close();
  });
});

describe('a client that does not read', () => {
  it('is cut off, and nobody else notices', async function () {
    this.timeout(60_000);
    const house = await workspace();
    const { ines } = furnish(house.service);
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: large\nsteps:\n  say: { kind: script, with: { code: "return \'x\'.repeat(900000)" } }\nresult: { said: "${ steps.say.value }" }\n',
    );
    house.service.flows.revisions.publish('large');
    house.service.endpoints.expose('huts', 'large', { flow: 'large' });
    const { port } = new URL(house.service.url);
    const socket = connectSocket(Number(port), '127.0.0.1');
    let session = '';
    let closed = false;
    socket.on('close', () => {
      closed = true;
    });
    socket.once('data', (piece) => {
      session = /session=([\w-]+)/.exec(String(piece))?.[1] ?? '';
      socket.pause();
    });
    socket.on('error', () => {});
    socket.write(`GET /mcp/huts/sse HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nAuthorization: Bearer ${ines}\r\n\r\n`);
    await until(() => session, 'the stream');
    const messages = `${house.service.url}/mcp/huts/messages?session=${session}`;
    const post = {
      method: 'POST',
      headers: { authorization: `Bearer ${ines}`, 'content-type': 'application/json' },
    };
    let refused = 0;
    for (let id = 1; id <= 40 && refused === 0; id++) {
      const answer = await fetch(messages, {
        ...post,
        body: JSON.stringify({ jsonrpc: '2.0', id, method: 'tools/call', params: { name: 'large', arguments: {} } }),
      });
      if (answer.status === 404) refused++;
    }
    // The answers are written as the machine has time for them.
    await until(async () => {
      const answer = await fetch(messages, { ...post, body: '{"jsonrpc":"2.0","method":"notifications/initialized"}' });
      return answer.status === 404;
    }, 'the session to end with its stream');
    socket.resume();
    await until(() => closed, 'the connection to be cut');
    expect((await house.api.status()).name).to.equal('pindro');
    await house.close();
  });
});

describe('an import that is refused', () => {
  it('tells nobody of what was taken back: a schedule goes on', async () => {
    const house = await workspace();
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: tick\nsteps:\n  say: { kind: text, with: { text: tick } }\n',
    );
    house.service.flows.revisions.publish('tick');
    house.service.entries.add({ flow: 'tick', on: true, settings: { kind: 'schedule', cron: '* * * * *' } as never });
    const told: string[] = [];
    house.service.bus.on('changed', (what, name) => told.push(`${what} ${name}`));
    const files = {
      'entries/tick.yaml': 'flow: tick\nentries: []\n',
      'tables/broken.yaml': 'name: broken\ncolumns: { id: text }\n',
      'flows/other.yaml': 'format: pindro/flow@1\nname: other\nsteps:\n  a: { kind: text, with: { text: x } }\n',
    };
    const { refused } = (await house.api.importWorkspace({ body: { files, overwrite: true } })) as {
      refused: object[];
    };
    expect(refused).to.have.length.above(0);
    expect(told).to.deep.equal([]);
    expect(house.service.entries.list('tick')).to.have.length(1);
    expect(house.service.flows.drafts.names()).to.deep.equal(['tick']);
    expect(
      await house.api.getFlow({ name: 'other' }).catch((error: { problem: { code: string } }) => error.problem.code),
    ).to.equal('not_found');
    await house.close();
  });
});
