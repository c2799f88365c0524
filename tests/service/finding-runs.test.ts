import { join } from 'node:path';
import { type Lift, type Model, startModel } from '@pindro/standins';
import Sqlite from 'better-sqlite3';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro, startReady } from '../support/process.js';
import { refusal } from '../support/refusal.js';
import {
  callTool,
  connect,
  furnish,
  LIFT_KEY,
  startTestLift,
  until,
  type Workspace,
  workspace,
} from '../support/workspace.js';

/** Adds a row, then welcomes whom the input names. */
const WELCOME = `format: pindro/flow@1
name: welcome
input: { type: object, properties: { who: { type: object }, hut: { type: string } } }
steps:
  note: { kind: table, with: { do: add, table: huts, row: { name: "\${ input.hut }", bunks: 3 } } }
  count: { kind: table, after: [note], with: { do: count, table: huts } }
  say: { kind: text, after: [count], with: { text: "Welcome, \${ input.who.name }, to \${ steps.count.count } huts" } }
result: "\${ steps.say.text }"
`;
/** The trace id of an agent elsewhere. */
const OUTSIDE = 'ab'.repeat(16);
/** A row that cannot be added beside a step that fails: it is no part of what comes after that one. */
const BESIDE = `format: pindro/flow@1
name: beside
input: { type: object, properties: { who: { type: object } } }
steps:
  note: { kind: table, on_error: continue, with: { do: add, table: huts, row: { name: x, bunks: "\${ input.who }" } } }
  say: { kind: text, with: { text: "Welcome, \${ input.who.name }" } }
result: "\${ steps.say.text }"
`;
const DESK = 'toolbox: [{ server: lift, use: [schedule_load] }]';

describe('finding a run again', function () {
  this.timeout(60_000);
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  let env: NodeJS.ProcessEnv;
  const ids: Record<string, string> = {};
  let warden: string;
  before(async () => {
    [house, lift, model] = await Promise.all([workspace(), startTestLift(), startModel()]);
    ({ ines: warden } = furnish(house.service));
    env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    house.service.flows.drafts.save(WELCOME);
    house.service.flows.drafts.save(deskFlow(DESK));
    const run = async (flow: string, input: object) =>
      (await house.api.runFlow({ name: flow, body: { input: input } })).run;
    ids.well = await run('welcome', { who: { name: 'Tobias' }, hut: 'birch' });
    ids.failed = await run('welcome', { who: { nmae: 'Ines' }, hut: 'cedar' });
    ids.desk = await run('desk', { message: 'Send 40 kg of gas up to larch on 2027-02-13.' });
    ids.heavy = await run('desk', { message: 'Send 400 kg of wood up to larch on 2027-02-13.' });
    const client = await connect(house.service, warden);
    await callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-02-13', party: 2 });
    await client.callTool({
      name: 'reserve_bunks',
      arguments: { hut: 'larch', night: '2027-02-14', party: 2 },
      _meta: { traceparent: `00-${OUTSIDE}-${'cd'.repeat(8)}-01` },
    });
    await client.close();
    await until(async () => (await found({ finding: 'no_value' })).length === 1, 'the findings');
  });
  after(async () => {
    await house.close();
    await Promise.all([lift.close(), model.close()]);
  });

  type Query = NonNullable<NonNullable<Parameters<Workspace['api']['listRuns']>[0]>['query']>;
  const found = async (query: Query) =>
    (await house.api.listRuns({ query: { roots: 'true', ...query } })).items.map(({ id }) => id);

  it('by what took part, what was found, when, how long, and what it used', async () => {
    expect(await found({ tool: 'schedule_load' })).to.have.members([ids.desk, ids.heavy]);
    expect(await found({ server: 'lift', failed: 'true' })).to.deep.equal([ids.heavy]);
    expect(await found({ model: 'house' })).to.have.members([ids.desk, ids.heavy]);
    expect(await found({ model: 'house', flow: 'welcome' })).to.deep.equal([]);
    expect(await found({ finding: 'no_value' })).to.deep.equal([ids.failed]);
    expect(await found({ entry: 'tool' })).to.have.length(2);
    expect(await found({ endpoint: 'huts', tool: 'reserve_bunks' })).to.have.length(2);
    expect(await found({ tokens: 1 })).to.have.members([ids.desk, ids.heavy]);
    expect(await found({ since: '1h' })).to.have.length(6);
    expect(await found({ until: '1h' })).to.deep.equal([]);
    expect(await found({ longer: '1h' })).to.deep.equal([]);
    const { traceId } = await house.api.getRun({ id: ids.desk! });
    expect(await found({ trace: traceId })).to.deep.equal([ids.desk]);
    const [outside] = (await house.api.listRuns({ query: { trace: OUTSIDE } })).items;
    const detail = await house.api.getRun({ id: outside!.id });
    expect(detail.spans.every((span) => span.traceId === OUTSIDE)).to.equal(true);
    expect(detail.spans[0]!.parentId).to.equal('cd'.repeat(8));
    const { items } = await house.api.listProblems({});
    const problem = items.find(({ code }) => code === 'no_value')!;
    expect(await found({ problem: problem.id })).to.deep.equal([ids.failed]);
  });

  it('by words that went in or out, without those that are masked', async () => {
    expect(await found({ text: 'Tobias' })).to.deep.equal([ids.well]);
    expect(await found({ text: 'gas larch' })).to.deep.equal([ids.desk]);
    expect(await found({ text: 'wel', flow: 'welcome' })).to.deep.equal([ids.well]);
    expect(await found({ text: LIFT_KEY })).to.deep.equal([]);
    expect(await found({ text: '"*^(' })).to.deep.equal([]);
    const listed = await pindro(['run', 'list', '--text', 'Tobias', '--roots'], { env });
    expect(listed.out).to.contain(ids.well).and.not.contain(ids.desk);
  });

  it('as it ends, by whoever stays', async () => {
    const told = await startReady<{ id: string }>(['run', 'list', '--flow', 'welcome', '--follow', '--json'], env);
    expect([ids.well, ids.failed]).to.include(told.contract.id);
    await house.api.runFlow({ name: 'desk', body: { input: { message: 'Hello' } } });
    const { run } = await house.api.runFlow({ name: 'welcome', body: { input: { who: {}, hut: 'fir' } } });
    const last = () => JSON.parse(told.lines.at(-1)!) as { id: string; flow: string; title: string };
    await until(async () => last().id === run, 'the line');
    expect(last().title).to.contain('has no value');
    expect(told.lines.every((line) => JSON.parse(line).flow === 'welcome')).to.equal(true);
    await told.stop('SIGINT');
  });

  it('by what was saved under a name, for everybody', async () => {
    const saved = await pindro(['run', 'list', '--flow', 'welcome', '--state', 'failed', '--save', 'no welcome'], {
      env,
    });
    expect(saved.code, saved.err).to.equal(0);
    const { items } = await house.api.listFilters();
    expect(items[0]).to.deep.include({ name: 'no welcome', query: { flow: 'welcome', state: 'failed' } });
    const again = await pindro(['run', 'list', '--saved', 'no welcome', '--json'], { env });
    const listed = JSON.parse(again.out).items as { flow: string; state: string }[];
    expect(listed.length).to.be.greaterThan(0);
    expect(new Set(listed.map(({ flow, state }) => `${flow} ${state}`))).to.deep.equal(new Set(['welcome failed']));
    expect((await pindro(['run', 'filters'], { env })).out).to.contain('--flow welcome --state failed');
    expect((await pindro(['run', 'list', '--saved', 'no'], { env })).err).to.contain('Available: no welcome.');
    const wrong = (query: Record<string, string>, name = 'x') =>
      refusal(house.api.saveFilter({ name, body: { query } }));
    expect((await wrong({ hut: 'larch' })).code).to.equal('request_invalid');
    expect((await wrong({ state: 'lost' })).code).to.equal('request_invalid');
    expect((await wrong({}, ' x')).code).to.equal('request_invalid');
    await pindro(['run', 'filters', '--remove', 'no welcome'], { env });
    expect((await house.api.listFilters()).items).to.deep.equal([]);
    expect((await refusal(house.api.removeFilter({ name: 'no welcome' }))).code).to.equal('not_found');
  });

  it('refuses what is no moment, no duration and no code, and says what to write', async () => {
    const refused = async (query: Query) => String(await found(query).catch((error: Error) => error.message));
    expect(await refused({ since: 'yesterday' })).to.contain('an age, such as 2h');
    expect(await refused({ longer: 'long' })).to.contain('must be a duration');
    expect(await refused({ entry: 'nowhere' as never })).to.not.equal('');
  });

  it('and it is told apart from one that went well: what differs first', async () => {
    const beside = await house.api.compareRuns({ id: ids.failed!, query: {} });
    expect(beside.other.id).to.equal(ids.well);
    expect(beside.first).to.equal('note');
    const told = await pindro(['run', 'compare', ids.failed!, ids.well!], { env });
    expect(told.out).to.contain('First difference: note').and.contain('cedar').and.contain('birch');
    const alone = await pindro(['run', 'compare', ids.well!], { env });
    expect(alone.code).to.equal(1);
    expect(alone.err).to.contain('Name another run');
  });

  it('is done again from a step on, with what came before out of the record, and nothing done twice', async () => {
    const rows = () =>
      house.service.tables.rows.find({ table: 'huts', where: [], sort: null, descending: false, limit: 99 }).length;
    const before = rows();
    const again = await pindro(['run', 'retry', ids.failed!, '--from', 'say', '--input', '{"who":{"name":"Ines"}}'], {
      env,
    });
    expect(again.out).to.match(/Welcome, Ines, to \d huts/);
    expect(rows()).to.equal(before);
    const live = await pindro(['run', 'retry', ids.failed!, '--from', 'note'], { env });
    expect(live.code).to.equal(1);
    expect(live.err).to.contain('repeat side effects').and.contain('note');
    expect(rows()).to.equal(before);
    const said = await house.api.retryRun({ id: ids.well!, body: { from: 'note', live: true } });
    expect(said.state).to.equal('done');
    expect(rows()).to.equal(before + 1);
    const nowhere = await pindro(['run', 'retry', ids.failed!, '--from', 'syas'], { env });
    expect(nowhere.err).to.contain('There are note, count, say');
  });

  it('does nothing for real unasked, whichever way of the flow it stands on', async () => {
    house.service.flows.drafts.save(BESIDE);
    const { run } = await house.api.runFlow({ name: 'beside', body: { input: { who: {} } } });
    const { settled } = await house.api.getRun({ id: run });
    expect(settled.find(({ path }) => path === 'note')!.state).to.not.equal('done');
    const refused = await house.api.retryRun({ id: run, body: { from: 'say' } }).catch((error: Error) => error);
    expect(String(refused)).to.contain('repeat side effects').and.contain('note');
  });

  it('by no name that somebody made up', async () => {
    const client = await connect(house.service, warden);
    await client.callTool({ name: 'fly_there', arguments: {} }).catch(() => {});
    await client.close();
    await until(async () => (await found({ finding: 'tool_not_offered' })).length === 1, 'the refusal');
    expect(await found({ tool: 'fly_there' })).to.deep.equal([]);
    expect((await house.api.metricSeries({ query: { by: 'tool' } })).items.map(({ name }) => name)).to.not.include(
      'fly_there',
    );
  });

  it('is counted: by flow, tool and model, and for whoever scrapes', async () => {
    const of = async (by: 'flow' | 'tool' | 'model' | 'endpoint') =>
      (await house.api.metricSeries({ query: { by } })).items;
    const flows = await of('flow');
    const welcome = flows.find(({ name }) => name === 'welcome')!;
    expect(welcome.runs).to.be.at.least(3);
    expect(welcome.failed).to.be.at.least(1);
    expect(welcome.p50).to.be.a('number').and.to.be.at.most(welcome.p95!);
    expect(welcome.over.reduce((sum, { runs }) => sum + runs, 0)).to.equal(welcome.runs);
    const [load] = await of('tool');
    expect(load).to.include({ name: 'schedule_load', failed: 1 });
    expect((await of('model'))[0]!.tokens).to.be.above(0);
    expect((await of('endpoint')).map(({ name }) => name)).to.deep.equal(['huts']);
    const told = await pindro(['metrics', '--by', 'tool'], { env });
    expect(told.out).to.contain('schedule_load');
    const headers = { authorization: `Bearer ${house.apiKey}` };
    const text = await (await fetch(`${house.service.url}/api/v1/metrics`, { headers })).text();
    expect(text).to.match(/^pindro_flow_total\{flow="welcome",outcome="failed"\} [1-9]/m);
    expect(text).to.match(/^pindro_tool_duration_seconds_bucket\{tool="schedule_load",le="\+Inf"\} 2$/m);
    expect((await fetch(`${house.service.url}/api/v1/metrics`)).status).to.equal(401);
    expect(await (await fetch(`${house.service.url}/readyz`)).json()).to.deep.equal({ ready: true, why: null });
  });

  it('is read whole at the terminal, with what each span says of itself', async () => {
    const brief = await pindro(['run', 'show', ids.heavy!], { env });
    const full = await pindro(['run', 'show', ids.heavy!, '--full'], { env });
    expect(full.out.length).to.be.above(2 * brief.out.length);
    expect(full.out).to.contain('gen_ai.tool.name = schedule_load').and.contain('"weight_kg": 400');
    expect(brief.out).to.not.contain('gen_ai.tool.name');
    expect(full.out).to.not.contain(LIFT_KEY);
  });

  it('goes with its run when that is let go', async () => {
    await until(async () => (await house.api.pruneRuns({ body: { olderThanDays: 0 } })).removed >= 0, 'the record');
    expect(await found({ tool: 'schedule_load' })).to.deep.equal([]);
    expect(await found({ trace: OUTSIDE })).to.deep.equal([]);
    const record = new Sqlite(join(house.data, 'runs.db'));
    for (const table of ['marks', 'spent', 'text_rows', 'texts'])
      expect(record.prepare(`SELECT * FROM ${table}`).all(), table).to.deep.equal([]);
    record.close();
    expect(await found({ text: 'Tobias' })).to.deep.equal([]);
  });
});
