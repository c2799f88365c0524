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
    house.service.tables.create('marks', { tag: 'text', half: 'whole', run: 'text' });
    for (const flow of [
      TWICE,
      'format: pindro/flow@1\nname: sends\nsteps: { up: { kind: tool, with: { server: lift, tool: lift_status } } }\n',
    ])
      house.service.flows.save(flow);
    await house.close();

    const acknowledged: string[] = [];
    const serve = () => startReady(['serve', '--json', '--port', '0', '--data', data]) as Promise<Running<Ready>>;
    for (let round = 0; round < ROUNDS; round++) {
      const service = await serve();
      const api = createClient({ url: service.contract.url, key: service.contract.apiKey });
      const before = acknowledged.length;
      let going = true;
      const callers = Array.from({ length: 8 }, async (_, caller) => {
        for (let turn = 0; going; turn++) {
          const tag = `${round}-${caller}-${turn}`;
          const outcome = await api.runFlow({ name: 'twice', body: { input: { tag } } }).catch(() => null);
          if (outcome?.state === 'done') acknowledged.push(outcome.run);
        }
      });
      if (round === 0) void api.runFlow({ name: 'sends', body: {} }).catch(() => null);
      await until(() => acknowledged.length > before + 10 + round, 'some answers');
      await service.stop('SIGKILL');
      going = false;
      await Promise.all(callers);
    }

    const last = await serve();
    const api = createClient({ url: last.contract.url, key: last.contract.apiKey });
    await until(async () => (await api.status()).running === 0, 'what was cut to come to its end', 20_000);
    const rows = new DatabaseSync(join(data, 'pindro.db'));
    const halves = new Map(
      rows
        .rows('SELECT run, group_concat(half) AS halves FROM (SELECT run, half FROM data_marks ORDER BY half) GROUP BY run')
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
    expect(findings[0]!.title).to.match(/step "up" of sends .* nobody knows/);
    expect(findings[0]!.why).to.contain('Call lift_status of lift');
    expect(findings[0]!.place).to.deep.equal({ flow: 'sends', at: '/steps/up' });
    await last.stop();
    await lift.close();
  });
});
