import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Finding, Receipt } from '@pindro/core';
import { type Lift, type Model, startModel } from '@pindro/standins';
import Sqlite from 'better-sqlite3';
import { expect } from 'chai';
import { deskFlow, greetFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { furnish, LIFT_KEY, startTestLift, temporary, until, type Workspace, workspace } from '../support/workspace.js';

const callLift = (tool: string, server = 'lift') => `format: pindro/flow@1
name: load
input: { type: object, properties: { kg: { type: integer } } }
steps:
  lift: { kind: tool, with: { server: ${server}, tool: ${tool}, arguments: { hut: larch, day: "2027-02-13", weight_kg: 40, goods: gas } } }
result: "\${ steps.lift.data }"
`;
const SEARCH = `format: pindro/flow@1
name: look-up
input: { type: object, properties: { hut: { type: string } } }
steps:
  find: { kind: table, with: { do: find, table: huts, where: { name: "\${ input.hut }" } } }
result: "\${ steps.find.count }"
`;

describe('what goes wrong, and what becomes of it', function () {
  this.timeout(60_000);
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  let page: Server;
  let env: NodeJS.ProcessEnv;
  before(async () => {
    [house, lift, model] = await Promise.all([workspace(), startTestLift(), startModel()]);
    furnish(house.service);
    env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    page = createServer((_, response) => {
      response.writeHead(200, { 'content-type': 'text/html' });
      response.end('<html><head><title>Huts</title></head><body><h1>Please sign in</h1></body></html>');
    });
    await new Promise<void>((resolve) => page.listen(0, '127.0.0.1', resolve));
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
  });
  after(async () => {
    await house.close();
    await Promise.all([lift.close(), model.close(), new Promise((resolve) => page.close(resolve))]);
  });

  const run = async (flow: string, input: object = {}, stage: 'draft' | 'live' = 'draft') => {
    const { run: id } = await house.api.runFlow({ name: flow, body: { input: input, stage } });
    return house.api.getRun({ id });
  };
  const first = async (flow: string, input: object = {}, stage: 'draft' | 'live' = 'draft') => {
    const one = await run(flow, input, stage);
    return { one, finding: one.findings[0] as Finding };
  };
  const problemOf = async ({ fingerprint }: Finding) => {
    await until(async () => {
      const { items } = await house.api.listProblems({ query: { limit: 200 } });
      const more = await Promise.all(
        (['resolved', 'expected'] as const).map((state) => house.api.listProblems({ query: { state } })),
      );
      return [items, ...more.map(({ items: some }) => some)].flat().some(({ id }) => id === fingerprint);
    }, 'the problem');
    return house.api.getProblem({ id: fingerprint });
  };

  it('is cured from the run, mended, and back when it is broken again', async () => {
    house.service.flows.drafts.save(greetFlow('nmae'));
    const { one, finding } = await first('greet', { who: { name: 'Tobias' } });
    expect(one.state).to.equal('failed');
    expect(finding).to.include({ code: 'no_value', severity: 'failure', fix: 'Write "input.who.name".' });
    expect(finding.place).to.deep.equal({ flow: 'greet', at: '/steps/say/with/text' });
    expect(await problemOf(finding)).to.deep.include({ state: 'open', times: 1, flow: 'greet', firstRun: one.id });

    const tried = await pindro(['run', 'fix', one.id, '--dry-run'], { env });
    expect(tried.out).to.contain('fixes 1 of 1 recorded run');
    expect((await problemOf(finding)).times).to.equal(1);
    expect(house.service.flows.drafts.get('greet').text).to.contain('nmae');
    const cured = await pindro(['run', 'fix', one.id], { env });
    expect(cured.out).to.contain('done: change step say of flow greet, at with › text');
    const again = await pindro(['run', 'retry', one.id], { env });
    expect(again.out).to.contain('Welcome, Tobias!');
    expect(await problemOf(finding)).to.deep.include({ state: 'resolved' });
    const twice = await pindro(['run', 'fix', one.id], { env });
    expect(twice.code).to.equal(1);
    expect(twice.err).to.contain('has changed since the run failed');

    house.service.flows.drafts.save(greetFlow('nmae'));
    await run('greet', { who: { name: 'Ines' } });
    const back = await problemOf(finding);
    expect(back).to.deep.include({ state: 'recurring', times: 2 });
    expect(back.days.at(-1)!.times).to.equal(2);
    const shown = await pindro(['problem', 'show', finding.fingerprint.slice(0, 8)], { env });
    expect(shown.out).to.contain('recurring').and.contain('change step say of flow greet');
  });

  it('is expected for some days, and nobody need look', async () => {
    const listed = await pindro(['problem', 'list'], { env });
    const [id] = /^[0-9a-f]{8}/m.exec(listed.out)!;
    const told = await pindro(['problem', 'expect', id, '--days', '3', '--note', 'the wardens are away'], { env });
    expect(told.out).to.contain('expected until');
    expect((await pindro(['problem', 'list'], { env })).out).to.not.contain(id);
    expect((await pindro(['problem', 'show', id], { env })).out).to.contain('the wardens are away');
    expect((await pindro(['problem', 'show', 'ffff'], { env })).err).to.contain('no problem named');
  });

  it('names the tool that was probably meant, and uses it', async () => {
    // It was built while its server could not be asked.
    const { servers, flows } = house.service;
    await servers.attach({
      name: 'later',
      url: 'http://127.0.0.1:9/mcp',
      credential: null,
      secret: LIFT_KEY,
      rules: {},
      skipTest: true,
    });
    flows.drafts.save(callLift('shedule_load', 'later'));
    flows.revisions.publish('load');
    expect((await first('load')).finding).to.include({ code: 'server_unreachable' });
    await servers.change('later', { url: lift.url });
    const { finding, one } = await first('load', { kg: 4 }, 'live');
    expect(finding.title).to.equal('Tool server "later" has no tool "shedule_load"; it has "schedule_load"');
    await house.api.fixRun({ id: one.id, body: {} });
    expect((await house.api.retryRun({ id: one.id, body: {} })).state).to.equal('done');
  });

  it('says what is odd about a key, without a character of it', async () => {
    await house.api.addCredential({ body: { name: 'twice', secret: `"${LIFT_KEY}"` } });
    await house.service.servers.attach({
      name: 'locked',
      url: lift.url,
      credential: 'twice',
      rules: {},
      skipTest: true,
    });
    house.service.flows.drafts.save(callLift('schedule_load', 'locked').replace('name: load', 'name: locked-load'));
    const { finding, one } = await first('locked-load');
    expect(finding.code).to.equal('not_authorised');
    expect(finding.title).to.contain('"twice"').and.contain('it is in quotation marks');
    expect(finding.place).to.deep.equal({ credential: 'twice' });
    expect(JSON.stringify(one)).to.not.contain(LIFT_KEY);
  });

  it('quotes the page that answered where a tool server was expected', async () => {
    const url = `http://127.0.0.1:${(page.address() as AddressInfo).port}/mcp`;
    await house.service.servers.attach({ name: 'page', url, credential: null, rules: {}, skipTest: true });
    house.service.flows.drafts.save(callLift('schedule_load', 'page').replace('name: load', 'name: page-load'));
    const { finding } = await first('page-load');
    expect(finding.code).to.equal('not_a_tool_server');
    expect(finding.place).to.deep.equal({ server: 'page' });
  });

  it('tells a search that found nothing for a capital letter, though the run is done', async () => {
    house.service.flows.drafts.save(SEARCH);
    const { one, finding } = await first('look-up', { hut: ' Larch' });
    expect(one.state).to.equal('done');
    expect(finding).to.include({ code: 'search_nearly_found', severity: 'doubt' });
    const listed = await pindro(['run', 'list', '--flow', 'look-up'], { env });
    expect(listed.out).to.contain('found nothing in huts');
    expect((await first('look-up', { hut: 'nowhere' })).one.findings).to.deep.equal([]);
    expect((await first('look-up', { hut: 'larch' })).one.findings).to.deep.equal([]);
  });

  it('names the models that there are where the one that is asked for is not, and uses it', async () => {
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house-unknown', skipTest: true } });
    house.service.flows.drafts.save(deskFlow('', { name: 'lost-desk' }));
    const { finding, one } = await first('lost-desk', { message: 'hello' });
    expect(finding).to.include({ code: 'model_refused' });
    expect(finding.why).to.contain('Available models: house');
    expect(finding.cure).to.deep.include({ do: 'model', model: 'house', from: 'house-unknown' });
    await house.api.fixRun({ id: one.id, body: {} });
    expect((await house.api.retryRun({ id: one.id, body: {} })).state).to.equal('done');
  });

  it('publishes what is called and was never published', async () => {
    house.service.flows.drafts.save(greetFlow('name').replace('name: greet', 'name: inner'));
    house.service.flows.drafts.save(`format: pindro/flow@1
name: outer
steps:
  call: { kind: flow, with: { flow: inner, input: { who: { name: Ines } } } }
result: "\${ steps.call.result }"
`);
    house.service.flows.revisions.publish('outer');
    const { run: id } = await house.api.runFlow({ name: 'outer', body: { input: {}, stage: 'live' } });
    const one = await house.api.getRun({ id });
    expect(one.findings[0]).to.include({ code: 'flow_not_published' });
    await house.api.fixRun({ id, body: {} });
    expect((await house.api.retryRun({ id, body: { on: 'live' } })).state).to.equal('done');
  });

  it('proposes nothing where nothing can be changed, and asks which where there are several', async () => {
    const { one } = await first('look-up', { hut: ' Larch' });
    const refused = await house.api.fixRun({ id: one.id, body: {} }).catch((error: Error) => error);
    expect(String(refused)).to.contain('has no finding with an automatic fix');
  });

  it('is looked at after a restart where the service was stopped before it could', async () => {
    const data = temporary();
    const before = await workspace({ data });
    before.service.flows.drafts.save(greetFlow('nmae'));
    const { run: id } = await before.api.runFlow({ name: 'greet', body: { input: { who: { name: 'Ines' } } } });
    await before.service.close();
    const record = new Sqlite(join(data, 'runs.db'));
    for (const table of ['findings', 'sightings', 'problems']) record.exec(`DELETE FROM ${table}`);
    record.close();
    const after = await workspace({ data });
    const { items } = await until(async () => {
      const list = await after.api.listProblems({});
      return list.items.length > 0 ? list : null;
    }, 'the problem');
    expect(items[0]).to.deep.include({ code: 'no_value', firstRun: id, times: 1 });
    await after.close();
  });

  it('is told to a hook once, with where to look, and again when it comes back', async () => {
    type Told = { id: string; state: string; title: string; url: string; receipt: Receipt | null };
    const told: { problems: Told[]; more: number }[] = [];
    const hook = createServer((request, response) => {
      let body = '';
      request.on('data', (piece) => (body += piece));
      request.on('end', () => {
        told.push(JSON.parse(body));
        response.end('{}');
      });
    });
    await new Promise<void>((resolve) => hook.listen(0, '127.0.0.1', resolve));
    const problemsTo = `http://127.0.0.1:${(hook.address() as AddressInfo).port}/problems`;
    const other = await workspace({ problemsTo });
    other.service.flows.drafts.save(greetFlow('nmae'));
    const fail = () => other.api.runFlow({ name: 'greet', body: { input: { who: { name: 'Ines' } } } });
    await fail();
    await fail();
    await until(async () => told.length === 1, 'the first notice');
    const [{ id, state, url }] = told[0]!.problems as [(typeof told)[0]['problems'][0]];
    expect(state).to.equal('open');
    expect(url).to.equal(`${other.service.url}/problems/${id}`);
    await other.api.updateProblem({ id, body: { state: 'resolved' } });
    await fail();
    await until(async () => told.length === 2, 'the second notice');
    expect(told[1]!.problems.map((one) => one.state)).to.deep.equal(['recurring']);
    expect(told[1]!.problems[0]!.receipt).to.equal(null);
    // What an agent did, by the record, goes along with what it claims.
    const model = await startModel();
    await other.api.addModel({ body: { name: 'boaster', base: model.url, model: 'house-claims' } });
    await other.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    other.service.flows.drafts.save(deskFlow('toolbox: [{ server: lift }]', { model: 'boaster' }));
    const message = 'Send 40 kg of flour up to larch on 2027-02-13.';
    await other.api.runFlow({ name: 'desk', body: { input: { message } } });
    await until(async () => told.length === 3, 'the third notice');
    expect(told[2]!.problems[0]!.receipt).to.deep.include({ done: [], open: [] });
    expect(told[2]!.problems[0]!.receipt!.contradicts).to.contain('no tool');
    await model.close();
    await other.close();
    await new Promise((resolve) => hook.close(resolve));
  });
});
