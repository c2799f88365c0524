import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { refusal } from '../support/refusal.js';
import {
  callTool,
  connect,
  furnish,
  LIFT_KEY,
  startTestLift,
  type Workspace,
  workspace,
} from '../support/workspace.js';

const CALLER = `format: pindro/flow@1
name: desk
# Who asks is told at once.
steps:
  book: { kind: flow, with: { flow: reserve-bunks, input: { hut: larch, night: 2027-02-14, party: 1 } } }
  note: { kind: text, with: { text: reserve-bunks } }
result: "\${ steps.book.result }"
`;

describe('a thing that gets another name', () => {
  let house: Workspace;
  let keys: { ines: string };
  beforeEach(async () => {
    house = await workspace();
    keys = furnish(house.service);
    house.service.flows.drafts.save(CALLER);
  });
  afterEach(() => house.close());

  it('as a flow is followed by drafts, endpoints and ways in, and led to by its old name', async () => {
    const { api } = house;
    await api.createEntry({ body: { flow: 'reserve-bunks', settings: { kind: 'form' } } });
    await api.saveSample({ name: 'reserve-bunks', body: { name: 'two', input: { party: 2 } } });
    const before = await api.runFlow({ name: 'desk', body: {} });
    expect(before.state).to.equal('done');
    const { changed } = await api.renameFlow({ name: 'reserve-bunks', body: { to: 'book-bunks' } });
    expect(changed).to.include.members(['endpoint "huts"', 'flow "desk"', 'form "reserve-bunks"']);
    const desk = (await api.getFlow({ name: 'desk' })).text;
    expect(desk).to.contain('flow: book-bunks').and.to.contain('# Who asks').and.to.contain('text: reserve-bunks');
    expect((await api.getFlow({ name: 'reserve-bunks' })).name).to.equal('book-bunks');
    expect((await api.getRevision({ name: 'book-bunks', revision: '1' })).text).to.contain('name: reserve-bunks');
    expect((await api.listEntries({ query: { flow: 'book-bunks' } })).items).to.have.length(1);
    expect((await api.flowTrials({ name: 'book-bunks' })).samples.map(({ name }) => name)).to.include('two');
    expect((await api.runFlow({ name: 'desk', body: {} })).state).to.equal('done');
    const client = await connect(house.service, keys.ines);
    const answer = await callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-02-15', party: 1 });
    expect(answer.isError ?? false).to.equal(false);
    await client.close();
    // Runs keep the name that the flow had; whoever asks for it by either means all.
    const runs = (await api.listRuns({ query: { flow: 'book-bunks' } })).items;
    expect(new Set(runs.map(({ flow }) => flow))).to.deep.equal(new Set(['reserve-bunks', 'book-bunks']));
    expect((await refusal(api.copyFlow({ name: 'desk', body: { to: 'reserve-bunks' } }))).code).to.equal(
      'already_there',
    );
    // A draft may still say the old name.
    expect((await api.importFlow({ body: { document: CALLER.replace('desk', 'desk-2') } })).sound).to.equal(true);
    await api.renameFlow({ name: 'book-bunks', body: { to: 'reserve-bunks' } });
    expect((await api.getFlow({ name: 'book-bunks' })).name).to.equal('reserve-bunks');
  });

  it('as a table, a server, a model or a credential is followed too, secrets and all', async () => {
    const [lift, model] = await Promise.all([startTestLift(), startModel()]);
    const { api } = house;
    await api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await api.addModel({ body: { name: 'house', base: model.url, model: 'house-1' } });
    await api.addTools({ name: 'huts', body: { servers: { lift: {} } } });
    house.service.flows.drafts.save(`format: pindro/flow@1
name: loads
steps:
  look: { kind: tool, with: { server: lift, tool: lift_status } }
  ask: { kind: model, with: { model: house, message: lift } }
  rows: { kind: table, with: { table: bookings, do: count } }
result: "\${ steps.rows.count }"
`);
    await api.renameServer({ name: 'lift', body: { to: 'cable' } });
    await api.renameModel({ name: 'house', body: { to: 'home' } });
    await api.renameTable({ name: 'bookings', body: { to: 'nights' } });
    await api.renameCredential({ name: 'lift-key', body: { to: 'cable-key' } });
    const { text } = await api.getFlow({ name: 'loads' });
    expect(text).to.contain('server: cable').and.contain('model: home').and.contain('table: nights');
    expect(text).to.contain('message: lift');
    expect((await api.getServer({ name: 'lift' })).credential).to.equal('cable-key');
    expect((await api.refreshServer({ name: 'cable' })).state).to.equal('ready');
    const endpoint = (await api.getEndpoint({ name: 'huts' })).document as { servers: object };
    expect(Object.keys(endpoint.servers)).to.deep.equal(['cable']);
    // What is live still says the old names.
    expect(
      (
        await api.runFlow({
          name: 'reserve-bunks',
          body: { stage: 'live', input: { hut: 'larch', night: '2027-02-16', party: 1 } },
        })
      ).state,
    ).to.equal('done');
    await Promise.all([lift.close(), model.close()]);
  });
});

describe('a thing that is removed', () => {
  let house: Workspace;
  beforeEach(async () => {
    house = await workspace();
    furnish(house.service);
  });
  afterEach(() => house.close());

  it('is shown with what uses it first, and can be put back as it was', async () => {
    const { api } = house;
    await api.createEntry({ body: { flow: 'reserve-bunks', settings: { kind: 'hook', guard: 'open' } } });
    const run = await api.runFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-14', party: 1 } },
    });
    const used = await refusal(api.removeFlow({ name: 'reserve-bunks' }));
    expect(used.code).to.equal('in_use');
    expect(used.detail).to.contain('endpoint "huts"').and.contain('hook "reserve-bunks"');
    const before = await api.getFlow({ name: 'reserve-bunks' });
    const { removal } = await api.removeFlow({ name: 'reserve-bunks', query: { force: 'true' } });
    expect((await refusal(api.getFlow({ name: 'reserve-bunks' }))).status).to.equal(404);
    expect((await api.listEntries({})).items).to.deep.equal([]);
    expect((await api.getRun({ id: run.run })).state).to.equal('done');
    // A tool that leads nowhere says so, and can be taken off.
    expect(
      (await api.getEndpoint({ name: 'huts' })).toolList.find(({ name }) => name === 'reserve_bunks')!.trouble,
    ).to.contain('no flow');
    expect((await api.listRemovals()).items.map(({ name }) => name)).to.deep.equal(['reserve-bunks']);
    await api.restoreRemoved({ id: removal.id });
    const after = await api.getFlow({ name: 'reserve-bunks' });
    expect({ ...after, endpoints: [] }).to.deep.equal({ ...before, endpoints: [] });
    expect((await api.listEntries({})).items).to.have.length(1);
    expect(
      (
        await api.runFlow({
          name: 'reserve-bunks',
          body: { stage: 'live', input: { hut: 'larch', night: '2027-02-16', party: 1 } },
        })
      ).state,
    ).to.equal('done');
    expect((await refusal(api.restoreRemoved({ id: removal.id }))).status).to.equal(404);
  });

  it('comes back with its rows, over a restart too, unless something took its name', async () => {
    const { api } = house;
    await api.addRow({ name: 'bookings', body: { row: { hut: 'larch', night: '2027-02-14', party: 3 } } });
    const gone = await api.removeTable({ name: 'bookings', query: { force: 'true' } });
    await api.createTable({ body: { name: 'bookings', columns: { other: 'text' } } });
    expect((await refusal(api.restoreRemoved({ id: gone.removal.id }))).code).to.equal('already_there');
    await api.removeTable({ name: 'bookings', query: { force: 'true' } });
    const { data } = house;
    await house.service.close();
    house = await workspace({ data });
    await house.api.restoreRemoved({ id: gone.removal.id });
    expect((await house.api.tableRows({ name: 'bookings' })).items[0]).to.include({ party: 3 });
  });

  it('as a way in frees the addresses that led to it', async () => {
    const { api } = house;
    const settings = { kind: 'hook' as const, guard: 'open' as const };
    const hook = await api.createEntry({ body: { flow: 'reserve-bunks', path: 'gate', settings } });
    await api.updateEntry({ id: hook.id, body: { path: 'port' } });
    const taken = await refusal(api.createEntry({ body: { flow: 'reserve-bunks', path: 'gate', settings } }));
    expect(taken.code).to.equal('already_there');
    expect((await fetch(`${house.service.url}/hooks/gate`, { method: 'POST' })).status).not.to.equal(404);
    await api.removeEntry({ id: hook.id });
    const fresh = await api.createEntry({ body: { flow: 'reserve-bunks', path: 'gate', settings } });
    expect(fresh.path).to.equal('gate');
  });

  it('is put back only by who may remove it, and secrets are masked again', async () => {
    const { api } = house;
    await api.addCredential({ body: { name: 'post', secret: 'a-long-secret-of-post' } });
    const { removal } = await api.removeCredential({ name: 'post' });
    const viewer = await api.addPerson({ body: { name: 'vera', role: 'viewer' } });
    expect(viewer.person.role).to.equal('viewer');
    await api.restoreRemoved({ id: removal.id });
    expect((await api.getCredential({ name: 'post' })).kind).to.equal('bearer');
    expect(house.service.credentials.masker.text('it is a-long-secret-of-post')).not.to.contain('a-long-secret');
  });
});

describe('things that are changed', () => {
  let house: Workspace;
  beforeEach(async () => {
    house = await workspace();
    furnish(house.service);
  });
  afterEach(() => house.close());

  it('are refused where they are there already', async () => {
    const document = { format: 'pindro/endpoint@1', name: 'huts' };
    expect((await refusal(house.api.createEndpoint({ body: { document } }))).code).to.equal('already_there');
    expect((await house.api.getEndpoint({ name: 'huts' })).tools).to.be.above(0);
    await house.api.createEndpoint({ body: { document, replace: true } });
    expect((await house.api.getEndpoint({ name: 'huts' })).tools).to.equal(0);
    const draft = { format: 'pindro/flow@1', name: 'reserve-bunks', steps: {} };
    const taken = await refusal(house.api.saveDraft({ name: 'reserve-bunks', body: { document: draft, fresh: true } }));
    expect(taken.code).to.equal('already_there');
  });

  it('as an endpoint: off, with since when, and on again', async () => {
    const { api } = house;
    const off = await api.updateEndpoint({ name: 'huts', body: { on: false, instructions: 'Ask first.' } });
    expect(off.on).to.equal(false);
    expect(Date.parse(off.offSince!)).to.be.closeTo(Date.now(), 60_000);
    const { key } = await api.issueKey({ body: { name: 'x', endpoints: ['huts'] } });
    const error = await connect(house.service, key).catch((thrown: Error) => thrown.message);
    expect(error).to.contain('disabled');
    const on = await api.updateEndpoint({ name: 'huts', body: { on: true } });
    expect([on.on, on.offSince, on.instructions]).to.deep.equal([true, null, 'Ask first.']);
    await (await connect(house.service, key)).close();
  });

  it('as a server: its address, name, credential and rules, kept once it answers', async () => {
    const [lift, other] = await Promise.all([startTestLift(), startTestLift()]);
    const { api } = house;
    await api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await refusal(api.updateServer({ name: 'lift', body: { url: 'http://127.0.0.1:9/mcp' } }));
    expect((await api.getServer({ name: 'lift' })).url).to.equal(lift.url);
    const moved = await api.updateServer({
      name: 'lift',
      body: { url: other.url, rules: { station: { set: 'valley' } } },
    });
    expect(moved).to.include({ url: other.url, credential: 'lift-key' });
    expect(moved.rules).to.deep.equal({ station: { set: 'valley' } });
    expect((await refusal(api.updateServer({ name: 'lift', body: { secret: 'a-wrong-key-for-it' } }))).code).to.equal(
      'server_wants_key',
    );
    expect((await api.callServerTool({ name: 'lift', tool: 'lift_status', body: {} })).isError).to.equal(false);
    await Promise.all([lift.close(), other.close()]);
  });

  it('as a table: columns are added, renamed, retyped and dropped, all or nothing', async () => {
    const { api } = house;
    await api.createTable({ body: { name: 'cabins', columns: { deck: 'text', beds: 'text', note: 'text' } } });
    await api.addRow({ name: 'cabins', body: { row: { deck: 'upper', beds: '2', note: 'x' } } });
    house.service.flows.drafts.save(`format: pindro/flow@1
name: cabins
steps: { find: { kind: table, with: { table: cabins, do: find, where: { deck: upper }, sort: deck } } }
result: "\${ steps.find.rows }"
`);
    const changed = await api.updateTable({
      name: 'cabins',
      body: { rename: { deck: 'floor' }, types: { beds: 'whole' }, add: { free: 'boolean' }, drop: ['note'] },
    });
    expect(changed.columns).to.deep.equal([
      { name: 'floor', type: 'text' },
      { name: 'beds', type: 'whole' },
      { name: 'free', type: 'boolean' },
    ]);
    expect(changed.changed).to.deep.equal(['flow "cabins"']);
    const { result } = await api.runFlow({ name: 'cabins', body: {} });
    expect(result).to.deep.equal([{ id: 1, floor: 'upper', beds: 2, free: null }]);
    await api.addRow({ name: 'cabins', body: { row: { floor: 'three', beds: 1 } } });
    const refused = await refusal(
      api.updateTable({ name: 'cabins', body: { types: { floor: 'number' }, drop: ['beds'] } }),
    );
    expect(refused.detail).to.contain('Row 1');
    expect((await api.getTable({ name: 'cabins' })).columns).to.deep.equal(changed.columns);
    const few = await refusal(api.addRows({ name: 'cabins', body: { rows: [{ beds: 1 }, { beds: 'many' }] } }));
    expect(few.at).to.equal('/rows/1/beds');
    expect((await api.getTable({ name: 'cabins' })).rows).to.equal(2);
  });

  it('are looked for by what stands in them, and asked for by names that there are', async () => {
    const { api } = house;
    expect((await api.listFlows({ query: { search: 'BUNKS' } })).items).to.have.length(1);
    expect((await api.listFlows({ query: { search: 'ferry' } })).items).to.deep.equal([]);
    await api.addRow({ name: 'bookings', body: { row: { hut: 'larch', night: '2027-02-14', party: 3 } } });
    await api.addRow({ name: 'bookings', body: { row: { hut: 'kestrel', night: '2027-02-14', party: 5 } } });
    const rows = async (query: object) =>
      (await api.tableRows({ name: 'bookings', query })).items.map((row) => row.party);
    expect(await rows({ search: 'LARCH' })).to.deep.equal([3]);
    expect(await rows({ where: '{"party":{"gt":3}}' })).to.deep.equal([5]);
    expect(await rows({ oldest: 'true' })).to.deep.equal([3, 5]);
    const misspelt = await fetch(`${house.service.url}/api/v1/runs?flwo=x`, {
      headers: { authorization: `Bearer ${house.apiKey}` },
    });
    expect(misspelt.status).to.equal(422);
    expect(JSON.stringify(await misspelt.json())).to.contain('Did you mean \\"flow\\"?');
  });
});
