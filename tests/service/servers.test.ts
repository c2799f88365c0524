import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { ProblemError } from '@pindro/contract';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { deadPort } from '../support/scripted-model.js';
import { LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const problemOf = async (work: Promise<unknown>) => {
  const error = await work.catch((thrown: unknown) => thrown);
  expect(error, 'a refusal').to.be.instanceOf(ProblemError);
  return (error as ProblemError).problem;
};

/** A server that answers whatever a test wants, on a real socket. */
async function odd(answer: RequestListener): Promise<{ url: string; server: Server; close(): void }> {
  const server = createServer(answer);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/mcp`,
    server,
    close: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}

describe('attached tool servers', () => {
  let house: Workspace;
  let lift: Lift;
  beforeEach(async () => {
    house = await workspace();
    lift = await startTestLift();
  });
  afterEach(async () => {
    await house.close();
    await lift.close();
  });
  const attach = (url: string, more: object = {}) => house.api.attachServer({ body: { name: 'lift', url, ...more } });
  const good = () => attach(lift.url, { secret: LIFT_KEY });
  const call = (tool: string, args: object = {}) =>
    house.api.callServerTool({ name: 'lift', tool, body: { arguments: args as never } });

  it('are tested when they are attached, and keep their tools', async () => {
    const one = await good();
    expect(one).to.deep.include({
      name: 'lift',
      state: 'ready',
      tools: 4,
      about: 'Valley Lift 2.3.0',
      credential: 'lift-key',
    });
    expect(one.toolList.map((tool) => tool.name)).to.deep.equal([
      'list_loads',
      'schedule_load',
      'cancel_load',
      'lift_status',
    ]);
    expect(await call('lift_status')).to.deep.include({
      isError: false,
      data: { running: true, carries_kg: 350, waiting: 0 },
    });
    const refused = await call('schedule_load', { hut: 'larch', day: '2027-02-14', weight_kg: 400 });
    expect(refused).to.deep.include({
      isError: true,
      text: 'The lift carries at most 350 kg; weight_kg was 400. Split the load.',
    });
  });

  it('are refused with the reason, and nothing is kept', async () => {
    const hanging = await odd(() => {});
    const page = await odd(
      (_request, response) => void response.writeHead(200, { 'content-type': 'text/html' }).end('<h1>Welcome</h1>'),
    );
    const odder = await odd(
      (_request, response) =>
        void response.writeHead(200, { 'content-type': 'application/json' }).end('{"hello":"world"}'),
    );
    const missing = await odd((_request, response) => void response.writeHead(404).end());
    const cases: [string, object, string, RegExp][] = [
      [`http://127.0.0.1:${await deadPort()}/mcp`, {}, 'server_unreachable', /connection refused/],
      ['http://127.0.0.1:9/mcp', {}, 'server_unreachable', /HTTP requests to this port are not allowed/],
      [odder.url, {}, 'server_not_mcp', /does not follow the protocol/],
      [page.url, {}, 'server_not_mcp', /is not an MCP server/],
      [missing.url, {}, 'server_not_mcp', /404/],
      [lift.url, {}, 'server_wants_key', /unauthorized \(401\)/],
      [lift.url, { secret: 'wrong-key' }, 'server_wants_key', /401/],
      ['lift', {}, 'request_invalid', /must start with http/],
      ['http://user:pw@127.0.0.1/', {}, 'request_invalid', /user name or password/],
    ];
    for (const [url, more, code, words] of cases) {
      const problem = await problemOf(attach(url, more));
      expect(problem.code, url).to.equal(code);
      expect(problem.detail, url).to.match(words);
      expect(problem.hint, url).not.to.equal('');
    }
    expect((await house.api.listServers()).items).to.deep.equal([]);
    expect((await house.api.listCredentials()).items).to.deep.equal([]);
    for (const server of [hanging, odder, page, missing]) server.close();
  });

  it('give up on a server that hangs', async function () {
    this.timeout(30_000);
    const hanging = await odd(() => {});
    const problem = await problemOf(attach(hanging.url));
    expect(problem.code).to.equal('timed_out');
    expect(problem.detail).to.contain('10s');
    hanging.close();
  });

  it('never show the key they were given, even when the server echoes it', async () => {
    const parrot = await odd(
      (request, response) =>
        void response.writeHead(500, { 'content-type': 'text/plain' }).end(`bad key ${request.headers.authorization}`),
    );
    const problem = await problemOf(attach(parrot.url, { secret: 'a-very-secret-key' }));
    expect(JSON.stringify(problem)).not.to.contain('a-very-secret-key');
    parrot.close();
  });

  it('refuse two of a name, and a detach while something uses them', async () => {
    await good();
    expect((await problemOf(good())).code).to.equal('already_there');
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: uses-it\nsteps: { a: { kind: tool, with: { server: lift, tool: lift_status } } }',
    );
    const problem = await problemOf(house.api.removeServer({ name: 'lift' }));
    expect(problem.detail).to.contain('flow "uses-it"');
    expect((await problemOf(house.api.removeCredential({ name: 'lift-key' }))).detail).to.contain('tool server "lift"');
  });

  it('hold rules that stand on a server against its tools', async () => {
    expect((await problemOf(attach(lift.url, { secret: LIFT_KEY, rules: { hut: 'omit' } }))).detail).to.contain(
      'required by schedule_load',
    );
    await attach(lift.url, { secret: LIFT_KEY, rules: { hut: { set: '${ caller.hut }' } } });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: send\nsteps: { a: { kind: tool, with: { server: lift, tool: schedule_load, arguments: { day: "2027-02-14", weight_kg: 5 } } } }\nresult: "${ steps.a.data.hut }"',
    );
    const { key } = house.service.keys.issue({
      name: 'x',
      caller: 'tobias',
      attributes: { hut: 'larch' },
      stage: 'draft',
      endpoints: [],
      manage: true,
    });
    const outcome = await (
      await fetch(`${house.service.url}/api/v1/flows/send/run`, {
        method: 'POST',
        headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
        body: '{}',
      })
    ).json();
    expect(outcome).to.deep.include({ state: 'done', result: 'larch' });
  });

  it('are reconnected by themselves after they were away', async () => {
    await good();
    await call('lift_status');
    const port = Number(new URL(lift.url).port);
    await lift.close();
    await until(() => house.service.servers.summary('lift').state === 'unreachable', 'the loss to be noticed');
    expect((await problemOf(call('lift_status'))).code).to.be.oneOf(['server_unreachable', 'server_lost']);
    lift = await startTestLift({ port });
    await until(() => house.service.servers.summary('lift').state === 'ready', 'the reconnection');
    expect((await call('lift_status')).isError).to.equal(false);
  });

  it('are called with a session of their own even after they forgot the old one', async () => {
    await good();
    const port = Number(new URL(lift.url).port);
    await call('lift_status');
    await lift.close();
    lift = await startTestLift({ port });
    const answer = await until(() => call('lift_status').catch(() => null), 'an answer of the new process');
    expect(answer.isError).to.equal(false);
  });

  it('say what came and went when the list is read anew', async () => {
    await good();
    expect(await house.api.refreshServer({ name: 'lift' })).to.deep.include({ added: [], removed: [], tools: 4 });
  });

  it('take a new secret without being attached anew', async () => {
    await good();
    await house.api.replaceSecret({ name: 'lift-key', body: { secret: 'wrong-key' } });
    await until(() => house.service.servers.summary('lift').state === 'refused', 'the refusal');
    expect((await problemOf(call('lift_status'))).code).to.equal('server_wants_key');
    await house.api.replaceSecret({ name: 'lift-key', body: { secret: LIFT_KEY } });
    await until(() => house.service.servers.summary('lift').state === 'ready', 'the server to be ready');
    // The last word counts, also while a connection with the one before is being made.
    for (const secret of [LIFT_KEY, 'wrong-key', LIFT_KEY, 'wrong-key'])
      await house.api.replaceSecret({ name: 'lift-key', body: { secret } });
    await until(() => house.service.servers.summary('lift').state === 'refused', 'the last secret to be refused');
  });

  it('lose a call that is cut in the middle, and say so in the trace', async () => {
    await lift.close();
    lift = await startTestLift({ delay: 5000 });
    await good();
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps: { a: { kind: tool, with: { server: lift, tool: schedule_load, arguments: { hut: larch, day: "2027-02-14", weight_kg: 40 } } } }',
    );
    const running = house.api.runFlow({ name: 'ask', body: {} });
    await new Promise((resolve) => setTimeout(resolve, 300));
    lift.http.closeAllConnections();
    const outcome = await running;
    expect(outcome.error).to.include({ code: 'server_lost' });
    const { findings } = await house.api.getRun({ id: outcome.run });
    expect(findings[0]).to.deep.include({ code: 'server_unreachable', place: { server: 'lift' } });
    expect(findings[0]!.fix).to.contain('whether the call took effect');
  });
});
