import { type Client, createClient } from '@pindro/contract';
import type { Json } from '@pindro/core/browser';
import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { refusal } from '../support/refusal.js';
import { furnish, LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const TALK = `format: pindro/flow@1
name: desk-talk
description: Says back what was said.
input: { type: object, required: [message], properties: { message: { type: string } } }
steps:
  say: { kind: text, title: Answer the guest, note: Kindly, with: { text: "You said \${ input.message }" } }
result: "\${ steps.say.text }"
`;

describe('looking for words in the whole workspace', () => {
  let house: Workspace;
  let api: Client;
  before(async () => {
    house = await workspace();
    api = house.api;
    furnish(house.service);
    house.service.flows.drafts.save(TALK);
    const [lift, model] = await Promise.all([startTestLift(), startModel()]);
    await api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await api.addModel({ body: { name: 'ridge', base: model.url, model: 'house-1' } });
    await Promise.all([lift.close(), model.close()]);
    await api.createEntry({ body: { flow: 'desk-talk', settings: { kind: 'form' } } });
  });
  after(() => house.close());
  const sorts = async (words: string) =>
    (await api.search({ query: { words } })).items
      .filter(({ sort }) => sort !== 'doc')
      .map(({ sort, name }) => `${sort} ${name}`);

  it('finds things of every sort, by name, title or what is said of them', async () => {
    expect(await sorts('reserve bunks')).to.include('flow reserve-bunks');
    expect(await sorts('answer the guest')).to.deep.equal(['step say']);
    expect(await sorts('kindly')).to.deep.equal(['step say']);
    expect(await sorts('says BACK')).to.deep.equal(['flow desk-talk']);
    expect(await sorts('lift_status')).to.include('tool lift_status');
    expect(await sorts('house-1')).to.deep.equal(['model ridge']);
    expect(await sorts('party')).to.include('table bookings');
    expect((await sorts('for ines')).map((one) => one.split(' ')[0])).to.deep.equal(['key']);
    expect(await sorts('lift-key')).to.include('credential lift-key');
    expect((await sorts('form')).some((one) => one.startsWith('entry '))).to.equal(true);
  });

  it('puts what is called so before what only speaks of it, and things before their parts', async () => {
    const found = await sorts('lift');
    expect(found[0]).to.equal('server lift');
    expect(found.indexOf('tool lift_status')).to.be.above(0);
    expect((await sorts('huts')).slice(0, 2)).to.have.members(['endpoint huts', 'table huts']);
  });

  it('finds a run by its id, and says where parts stand', async () => {
    const { run } = await api.runFlow({ name: 'desk-talk', body: { input: { message: 'hello' } } });
    const [found] = (await api.search({ query: { words: ` ${run.toUpperCase()} ` } })).items;
    expect(found).to.deep.equal({
      ...{ sort: 'run', name: run, title: 'Run of desk-talk', about: 'done', in: 'desk-talk' },
    });
    expect((await api.search({ query: { words: 'answer the guest' } })).items[0]).to.include({ in: 'desk-talk' });
  });

  it('gives as many as are asked for, nothing for nonsense, and never a secret', async () => {
    expect((await api.search({ query: { words: '', limit: 3 } })).items).to.have.length(3);
    for (const words of ['%', '_', "' OR 1=1", '\u0000', 'r000000000000', LIFT_KEY, house.apiKey])
      expect(await sorts(words).then((all) => all.filter((one) => !one.includes(words))), words).to.deep.equal([]);
    expect((await refusal(api.search({ query: { words: 'x'.repeat(201) } }))).code).to.equal('request_invalid');
    for (const limit of [0, 101, 1.5])
      expect((await refusal(api.search({ query: { words: 'a', limit } }))).detail, String(limit)).to.contain('limit');
  });
});

describe('a draft that several people have open', () => {
  let house: Workspace;
  let ines: Client;
  before(async () => {
    house = await workspace();
    house.service.flows.drafts.save(TALK);
    const { key } = house.service.keys.issue({
      ...{ name: 'ines', caller: 'ines', attributes: {}, stage: 'draft', endpoints: ['*'], manage: true },
    });
    ines = createClient({ url: house.service.url, key });
  });
  after(() => house.close());
  const here = async (api: Client, page: string, name = 'desk-talk') =>
    (await api.reportPresence({ name, body: { page } })).others;

  it('tells each page who else is there, each once however many pages they have', async () => {
    expect(await here(house.api, 'a')).to.deep.equal([]);
    const [other] = await here(ines, 'b');
    expect(await here(ines, 'c')).to.include(other);
    expect(await here(house.api, 'a')).to.have.length(1);
    expect(await here(house.api, 'a'), 'repeat').to.have.length(1);
    const said = (page: string) => house.api.reportPresence({ name: 'desk-talk', body: { page } });
    expect(await said('a'), 'alone').to.deep.include({ elsewhere: false });
    expect(await said('another of mine'))
      .to.deep.include({ elsewhere: true })
      .and.to.have.property('others')
      .with.length(1);
  });

  it('is told only of flows that there are, and by a page that has a name', async () => {
    expect((await refusal(here(house.api, 'a', 'never-was'))).code).to.equal('not_found');
    for (const page of ['', 'x'.repeat(61)])
      expect((await refusal(here(house.api, page))).code, page).to.equal('request_invalid');
  });

  it('does not grow with pages that are made up', async () => {
    for (let round = 0; round < 130; round++) await here(house.api, `page-${round}`);
    expect((await here(ines, 'b')).length).to.be.below(3);
  });
});

describe('a document beside the draft', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    house.service.flows.drafts.save(TALK);
  });
  after(() => house.close());
  const compare = (document: string) => house.api.compareDraft({ name: 'desk-talk', body: { document } });

  it('is compared with it, step by step and line by line', async () => {
    const { changes, steps, lines } = await compare(TALK.replace('You said', 'I heard'));
    expect(steps).to.deep.equal({ say: 'changed' });
    expect(changes).to.have.length(1);
    expect(lines.filter(({ sign }) => sign !== ' ')).to.have.length(2);
    expect((await compare(TALK)).changes).to.deep.equal([]);
  });

  it('is refused with its place where it cannot be read, and the draft stays as it is', async () => {
    const problem = await refusal(compare('format: pindro/flow@1\nname: [desk'));
    expect(problem.status).to.equal(422);
    expect(problem.mistakes![0]).to.include.keys('at', 'line', 'message');
    expect((await house.api.getFlow({ name: 'desk-talk' })).text).to.equal(TALK);
    const unknown = await refusal(house.api.compareDraft({ name: 'never-was', body: { document: TALK } }));
    expect(unknown.code).to.equal('not_found');
  });
});

describe('what was talked about, and how runs went', () => {
  let house: Workspace;
  let api: Client;
  before(async () => {
    house = await workspace();
    api = house.api;
    house.service.flows.drafts.save(TALK);
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: breaks\nsteps: { out: { kind: stop, with: { as: failed, message: No room } } }\n',
    );
  });
  after(() => house.close());
  const say = (message: string, session?: string) =>
    api.runFlow({ name: 'desk-talk', body: { input: { message }, ...(session && { session }) } });

  it('is listed conversation by conversation, the latest first, called by how it began', async () => {
    for (const [message, session] of [
      ['Is larch open?', 's1'],
      ['And kestrel?', 's1'],
      ['x'.repeat(300), 's2'],
    ] as const)
      await say(message, session);
    await say('itself');
    const { items } = await api.listConversations({ name: 'desk-talk' });
    expect(items.map(({ session, turns }) => [session, turns]).slice(-2)).to.deep.equal([
      ['s2', 1],
      ['s1', 2],
    ]);
    const first = items.find(({ session }) => session === 's1')!;
    expect(first).to.include({ begins: 'Is larch open?', turns: 2, caller: 'owner' });
    expect(items.find(({ session }) => session === 's2')!.begins).to.have.length(120);
    expect((await api.listConversations({ name: 'breaks' })).items).to.deep.equal([]);
    expect((await refusal(api.listConversations({ name: 'never-was' }))).code).to.equal('not_found');
  });

  it('is counted hour by hour, with what failed most', async () => {
    for (let round = 0; round < 3; round++) await api.runFlow({ name: 'breaks', body: {} });
    const { hours, failing } = await until(async () => {
      const activity = await api.activity({ query: { hours: 2 } });
      return activity.failing[0]?.times === 3 ? activity : null;
    }, 'the runs to be counted');
    expect(hours).to.have.length(2);
    const sum = (sort: 'done' | 'failed' | 'other') => hours.reduce((all, hour) => all + hour[sort], 0);
    expect([sum('done'), sum('failed'), sum('other')]).to.deep.equal([4, 3, 0]);
    expect(failing).to.have.length(1);
    expect(failing[0]).to.include({ flow: 'breaks', times: 3 });
    expect((await api.getRun({ id: failing[0]!.run })).state).to.equal('failed');
    for (const wrong of [0, 169, -1, 1.5])
      expect((await refusal(api.activity({ query: { hours: wrong } }))).detail, String(wrong)).to.contain('hours');
  });

  it('has every value whole where the page has only its beginning', async () => {
    const long = 'larch '.repeat(40_000);
    const { run } = await say(long, 's3');
    const brief = await api.getRun({ id: run, query: { brief: 'true' } });
    const cut = brief.input as { cut: boolean; characters: number; beginning: string };
    expect(cut).to.include({ cut: true, characters: JSON.stringify({ message: long }).length });
    expect(JSON.stringify({ message: long }).startsWith(cut.beginning)).to.equal(true);
    expect(JSON.stringify(brief).length).to.be.below(100_000);
    const whole = (of: 'input' | 'result' | 'step', path?: string) =>
      api.runValue({ id: run, query: { of, ...(path && { path }) } }).then(({ value }) => value as Json);
    expect(await whole('input')).to.deep.equal({ message: long });
    expect(await whole('result')).to.equal(`You said ${long}`);
    expect(await whole('step', 'say')).to.deep.equal({ text: `You said ${long}` });
    for (const path of ['nobody', '', 'say/0/inner', '__proto__'])
      expect((await refusal(whole('step', path))).status, path).to.be.oneOf([400, 404, 422]);
    expect((await refusal(api.runValue({ id: 'r000', query: { of: 'input' } }))).code).to.equal('not_found');
    expect((await refusal(whole('secret' as never))).code).to.equal('request_invalid');
  });
});

describe('the rows of a table as a grid asks for them', () => {
  let house: Workspace;
  let api: Client;
  before(async () => {
    house = await workspace();
    api = house.api;
    furnish(house.service);
    const rows = Array.from({ length: 30 }, (_, n) => ({
      ...{ hut: n % 3 === 0 ? 'larch' : 'kestrel', night: `2027-02-${String((n % 28) + 1).padStart(2, '0')}` },
      ...{ party: n, by: 'ines' },
    }));
    await api.addRows({ name: 'bookings', body: { rows } });
  });
  after(() => house.close());
  type Query = NonNullable<Parameters<Client['tableRows']>[0]['query']>;
  const page = (query: Query) => api.tableRows({ name: 'bookings', query });
  const parties = async (query: Query) => (await page(query)).items.map((row) => row.party);

  it('come sorted, filtered, from any place and with their count', async () => {
    expect(await parties({ sort: 'party', descending: 'true', limit: 3 })).to.deep.equal([29, 28, 27]);
    expect(await parties({ sort: 'party', skip: 27 })).to.deep.equal([27, 28, 29]);
    const { items, count } = await page({ where: '{"hut":"larch","party":{"gte":9}}', limit: 2, oldest: 'true' });
    expect(items.map(({ party }) => party)).to.deep.equal([9, 12]);
    expect(count).to.equal(7);
    expect(await parties({ search: '2027-02-05' })).to.deep.equal([4]);
    expect(await parties({ skip: 1000 })).to.deep.equal([]);
  });

  const WRONG: [Query, RegExp][] = [
    [{ skip: -1 }, /skip/],
    [{ limit: 0 }, /limit/],
    [{ limit: 100_000 }, /limit/],
    [{ cursor: 'first' }, /integer/],
    [{ sort: 'colour' }, /colour.*hut, night, party, by/s],
    [{ sort: 'id; DROP TABLE data_bookings' }, /no column/],
    [{ where: '{' }, /"where" is not JSON/],
    [{ where: '[]' }, /"where"/],
    [{ where: '{"colour":"red"}' }, /colour/],
    [{ where: '{"hut":{"near":"larch"}}' }, /"near" is not allowed here.*Known: gt, gte/s],
    [{ where: '{"hut":{}}' }, /"hut" is empty/],
    [{ where: '{"__proto__":{"gt":1}}' }, /__proto__/],
  ];
  for (const [query, words] of WRONG)
    it(`are refused for ${JSON.stringify(query)}, with what to do`, async () => {
      const problem = await refusal(page(query));
      expect(problem.status).to.be.within(400, 422);
      expect(`${problem.detail} ${problem.hint}`).to.match(words);
    });

  it('remember who made and changed them: people and runs with their step', async () => {
    const { row } = await api.addRow({ name: 'bookings', body: { row: { hut: 'larch', party: 2 } } });
    await api.updateRow({ name: 'bookings', row: String(row.id), body: { set: { party: 3, by: 'tobias' } } });
    const { items } = await api.rowHistory({ name: 'bookings', row: String(row.id) });
    expect(items.map(({ did, columns }) => [did, columns])).to.deep.equal([
      ['changed', ['party', 'by']],
      ['added', ['hut', 'party']],
    ]);
    expect(items.every(({ run, step }) => run === null && step === null)).to.equal(true);
    const outcome = await api.runFlow({
      ...{ name: 'reserve-bunks', body: { input: { hut: 'larch', night: '2027-03-01', party: 1 } } },
    });
    const booked = String((outcome.result as { id: number }).id);
    const [made] = (await api.rowHistory({ name: 'bookings', row: booked })).items;
    expect(made).to.include({ did: 'added', run: outcome.run, step: 'book', by: 'owner' });
    expect((await refusal(api.rowHistory({ name: 'bookings', row: 'first' }))).code).to.equal('request_invalid');
    expect((await refusal(api.rowHistory({ name: 'bookings', row: '99999' }))).code).to.equal('not_found');
    expect((await refusal(api.rowHistory({ name: 'nowhere', row: '1' }))).code).to.equal('not_found');
  });
});
