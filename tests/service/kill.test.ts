import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { patience } from '../support/patience.js';
import { type Running, startReady } from '../support/process.js';
import { discard, furnish, LIFT_KEY, startTestLift, temporary, until, workspace } from '../support/workspace.js';
import { DatabaseSync } from './sqlite.js';

interface Ready {
  url: string;
  apiKey: string;
}

const ROUNDS = 30;
/** Two bookings, one after the other, so that a cut can fall between or inside of them; never more than one of each. */
const TWICE = `
format: pindro/flow@1
name: twice
input: { type: object, required: [tag], properties: { tag: { type: string } } }
steps:
  first: { kind: table, with: { table: marks, do: add, row: { tag: "\${ input.tag }", half: 1, run: "\${ run.id }" } } }
  pause: { kind: wait, after: [first], with: { for: 3ms } }
  second: { kind: table, after: [pause], with: { table: marks, do: add, row: { tag: "\${ input.tag }", half: 2, run: "\${ run.id }" } } }
result: "\${ steps.second.row.tag }"
`;

describe('thirty rounds of kill -9 under load', function () {
  // Each round starts the service anew, which takes a second or two.
  this.timeout(patience(240_000));
  let data: string;
  beforeEach(() => {
    data = temporary();
  });
  afterEach(() => discard(data));

  it('leave rows and records that agree for every run; what can go on does, and the rest says which step is in doubt', async () => {
    const house = await workspace({ data });
    furnish(house.service);
    const lift = await startTestLift({ delay: 60_000 });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.tables.definitions.create('marks', { tag: 'text', half: 'whole', run: 'text' });
    for (const flow of [
      TWICE,
      'format: pindro/flow@1\nname: sends\nsteps: { up: { kind: tool, with: { server: lift, tool: lift_status } } }\n',
    ])
      house.service.flows.drafts.save(flow);
    await house.close();

    const acknowledged: string[] = [];
    const serve = () => startReady(['serve', '--json', '--port', '0', '--data', data]) as Promise<Running<Ready>>;
    for (let round = 0; round < ROUNDS; round++) {
      const service = await serve();
      const api = createClient({ url: service.contract.url, key: service.contract.apiKey });
      const before = acknowledged.length;
      let outgoingValue = true;
      const callers = Array.from({ length: 8 }, async (_, caller) => {
        for (let turn = 0; outgoingValue; turn++) {
          const tag = `${round}-${caller}-${turn}`;
          const outcome = await api.runFlow({ name: 'twice', body: { input: { tag } } }).catch(() => null);
          if (outcome?.state === 'done') acknowledged.push(outcome.run);
        }
      });
      if (round === 0) void api.runFlow({ name: 'sends', body: {} }).catch(() => null);
      await until(() => acknowledged.length > before + 10 + round, 'some answers');
      await service.stop('SIGKILL');
      outgoingValue = false;
      await Promise.all(callers);
    }

    const last = await serve();
    const api = createClient({ url: last.contract.url, key: last.contract.apiKey });
    await until(async () => (await api.status()).running === 0, 'what was cut to come to its end', 20_000);
    const rows = new DatabaseSync(join(data, 'pindro.db'));
    const halves = new Map(
      rows
        .rows(
          'SELECT run, group_concat(half) AS halves FROM (SELECT run, half FROM data_marks ORDER BY half) GROUP BY run',
        )
        .map(({ run, halves }) => [String(run), String(halves)] as const),
    );
    rows.close();
    const record = new DatabaseSync(join(data, 'runs.db'));
    const runs = record.rows("SELECT id, state, spans FROM runs WHERE flow = 'twice'");
    const wentOn = record.rows(
      `SELECT DISTINCT run FROM pages WHERE spans LIKE '%pindro.resumed%' AND run IN (SELECT id FROM runs WHERE flow = 'twice' AND state = 'done')`,
    );
    record.close();
    const states = new Map(runs.map(({ id, state }) => [String(id), String(state)]));
    for (const run of acknowledged) expect(states.get(run), run).to.equal('done');
    // Nobody has half of it, and nobody has it twice.
    for (const [run, state] of states) expect(`${state} ${halves.get(run) ?? ''}`, run).to.equal('done 1,2');
    expect([...halves.keys()].filter((run) => !states.has(run))).to.deep.equal([]);
    expect(wentOn.length).to.be.above(0);

    const [doubtful] = (await api.listRuns({ query: { flow: 'sends' } })).items;
    expect(doubtful).to.include({ state: 'interrupted' });
    const { findings } = await api.getRun({ id: doubtful!.id });
    expect(findings[0]).to.include({ code: 'interrupted', severity: 'failure' });
    expect(findings[0]!.title).to.match(/step "up" of sends, and the outcome is unknown/);
    expect(findings[0]!.why).to.contain('Call lift_status of lift');
    expect(findings[0]!.place).to.deep.equal({ flow: 'sends', at: '/steps/up' });
    await last.stop();
    await lift.close();
  });
});

describe('a client that lost its stream to kill -9', () => {
  let data: string;
  beforeEach(() => {
    data = temporary();
  });
  afterEach(() => discard(data));

  it('gets the answer of the run that went on, on that stream alone', async function () {
    this.timeout(patience(60_000));
    const port = 20_000 + Math.floor(Math.random() * 20_000);
    const house = await workspace({ data });
    const { ines, tobias } = furnish(house.service);
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: nap\nsteps:\n  tell: { kind: text, with: { text: begun } }\n  rest: { kind: wait, after: [tell], with: { for: 3s } }\nresult: { said: "rested" }\n',
    );
    house.service.flows.revisions.publish('nap');
    house.service.endpoints.expose('huts', 'nap', { flow: 'nap' });
    await house.close();
    const serve = () =>
      startReady(['serve', '--json', '--port', String(port), '--data', data]) as Promise<Running<Ready>>;
    const first = await serve();
    const url = `http://127.0.0.1:${port}/mcp/huts`;
    const headers = (key: string, more: object = {}) => ({
      authorization: `Bearer ${key}`,
      accept: 'application/json, text/event-stream',
      'content-type': 'application/json',
      ...more,
    });
    const post = (message: object, more: object = {}) =>
      fetch(url, {
        method: 'POST',
        headers: headers(ines, more),
        body: JSON.stringify({ jsonrpc: '2.0', ...message }),
      });
    const clientInfo = { name: 'raw', version: '1' };
    const params = { protocolVersion: '2025-11-25', capabilities: {}, clientInfo };
    const session = (await post({ id: 1, method: 'initialize', params })).headers.get('mcp-session-id')!;
    const call = { id: 'the-call', method: 'tools/call', params: { name: 'nap', _meta: { progressToken: 7 } } };
    const stream = (await post(call, { 'mcp-session-id': session })).body!.getReader();
    let seen = '';
    while (!seen.includes('tell: done')) seen += new TextDecoder().decode((await stream.read()).value);
    const running = createClient({ url: first.contract.url, key: first.contract.apiKey });
    await until(async () => (await running.listRuns({ query: { flow: 'nap' } })).items[0], 'the run to be recorded');
    await first.stop('SIGKILL');
    const last = /id: (\S+)\nevent: message\ndata: .*tell: done/.exec(seen)![1]!;

    const second = await serve();
    const takeUp = (key: string, id: string, of = session) =>
      fetch(url, { headers: headers(key, { 'mcp-session-id': of, 'last-event-id': id }) });
    expect((await takeUp(ines, last.replace(/.{4}_/, 'xxxx_'))).status, 'another stream').to.equal(410);
    expect((await takeUp(tobias, last)).status, 'another key').to.equal(404);
    const rest = await (await takeUp(ines, last)).text();
    expect(rest, rest).to.contain('"id":"the-call","result"').and.contain('rested').and.not.contain('isError');
    const api = createClient({ url: second.contract.url, key: second.contract.apiKey });
    const { items } = await api.listRuns({ query: { flow: 'nap' } });
    expect(items.map(({ state }) => state)).to.deep.equal(['done']);
    await second.stop();
  });
});
