import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { type Gate, startGate } from '../support/gate.js';
import { refusal } from '../support/refusal.js';
import { LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const GATE_KEY = 'the-key-of-the-gate';

describe('attaching from whatever one has', () => {
  let house: Workspace;
  let lift: Lift;
  let gates: Record<'query' | 'header', Gate>;
  before(async () => {
    lift = await startTestLift();
    const [query, header] = await Promise.all([
      startGate(lift.url, LIFT_KEY, ({ url }) => new URL(url ?? '', 'http://x').searchParams.get('key') === GATE_KEY),
      startGate(lift.url, LIFT_KEY, ({ headers }) => headers['x-api-key'] === GATE_KEY),
    ]);
    gates = { query, header };
  });
  beforeEach(async () => {
    house = await workspace();
  });
  afterEach(() => house.close());
  after(() => Promise.all([lift.close(), ...Object.values(gates).map((gate) => gate.close())]));
  const understand = async (text: string) => (await house.api.recognizeServers({ body: { text } })).items;
  const attach = (text: string, more = {}) => house.api.attachRecognized({ body: { text, ...more } });
  const works = async (name: string) =>
    (await house.api.callServerTool({ name, tool: 'lift_status', body: { arguments: {} } })).isError;

  it('an address of an older server, pasted with quotes around it and a key beside it', async () => {
    const text = `“${lift.older}”\nauthorization: ${LIFT_KEY}`;
    const [one] = await understand(text);
    expect(one).to.include({ url: lift.older, speaks: null, cannot: null });
    expect(one!.repairs).to.have.length.above(1);
    const attached = await attach(text, { name: 'cable' });
    expect(attached).to.include({ name: 'cable', speaks: 'sse', state: 'ready', credential: 'cable-key' });
    expect(await works('cable')).to.equal(false);
  });

  it('broken settings with two servers, each with its own headers', async () => {
    const text = `{ // from the desk
      “mcpServers”: {
        "Cable Lift": { "url": "${lift.url}", "headers": { "Authorization": "Baerer ${LIFT_KEY}", "X-Hut": "larch" }, },
        "gate": { "url": "${gates.header.url}/mcp", "headers": { "x_api_key": "${GATE_KEY}" } },
      }
    `;
    const items = await understand(text);
    expect(items.map(({ name }) => name)).to.deep.equal(['cable-lift', 'gate']);
    expect(items[0]!.repairs.join(' ')).to.contain('Curly quotes').and.contain('"Baerer" was corrected to Bearer');
    for (const at of [0, 1]) await attach(text, { at });
    expect((await house.api.getServer({ name: 'cable-lift' })).headers).to.deep.equal({ 'X-Hut': 'larch' });
    for (const { name } of items) expect(await works(name), name).to.equal(false);
  });

  it('an address with a key in it, which is sealed and goes along all the same', async () => {
    const text = `${gates.query.url}/mcp?hut=larch&key=${GATE_KEY}`;
    const attached = await attach(text, { name: 'gate' });
    expect(attached.url).to.equal(`${gates.query.url}/mcp?hut=larch`);
    expect(await works('gate')).to.equal(false);
    expect(gates.query.asked.at(-1)!.url).to.contain('hut=larch').and.contain(`key=${GATE_KEY}`);
    const { items } = await house.api.listCredentials({ query: {} });
    expect(items).to.have.length(1);
    expect(items[0]).to.deep.include({ kind: 'query', header: 'key', origins: [gates.query.url] });
    for (const shown of [attached, items, await understand(text)])
      expect(JSON.stringify(shown)).not.to.contain(GATE_KEY);
    expect((await refusal(attach(text.replace(GATE_KEY, 'another-key'), { name: 'no' }))).code).to.equal(
      'server_wants_key',
    );
  });

  it('a request that somebody sent by hand, with a header in the wrong case', async () => {
    const text = `curl -X POST ${gates.header.url}/mcp -H 'x-api-key: ${GATE_KEY}' -H "X-Hut: larch"`;
    const attached = await attach(text, { name: 'gate' });
    expect(attached).to.deep.include({ state: 'ready', headers: { 'X-Hut': 'larch' } });
    expect(await works('gate')).to.equal(false);
    expect(gates.header.asked.at(-1)!.headers).to.include({ 'x-hut': 'larch', 'x-api-key': GATE_KEY });
  });

  it('an entry of a catalogue, whose key is asked for', async () => {
    const entry = {
      name: 'example.valley/lift',
      remotes: [
        { type: 'streamable-http', url: `${gates.header.url}/mcp`, headers: [{ name: 'X-Api-Key', isSecret: true }] },
      ],
    };
    const text = JSON.stringify(entry);
    const [one] = await understand(text);
    expect(one!.headers).to.deep.equal([{ name: 'X-Api-Key', value: '', secret: true, missing: true, why: null }]);
    const missing = await refusal(attach(text));
    expect(missing).to.deep.include({ code: 'request_invalid', at: '/values/X-Api-Key' });
    expect(await attach(text, { values: { 'X-Api-Key': GATE_KEY } })).to.include({ name: 'lift', state: 'ready' });
  });

  it('a command line is shown without its secrets before anything is started', async () => {
    const text = 'TRAIL_KEY=s3cret-of-the-trail no-such-trail-reports -y --token s3cret-too';
    const [one] = await understand(text);
    expect(one).to.include({ url: null, command: 'no-such-trail-reports -y --token <token>', cannot: null });
    expect(JSON.stringify(one)).not.to.contain('s3cret');
    expect((await refusal(attach(text))).code).to.equal('program_not_started');
    expect((await house.api.listCredentials({ query: {} })).items.map(({ name }) => name)).not.to.include(
      'no-such-key',
    );
  });

  it('keeps nothing of what did not answer, secrets neither', async () => {
    for (const text of [
      `${gates.header.url}/mcp`,
      'http://127.0.0.1:9/mcp',
      `${lift.url}\nAuthorization: wrong-key-1234`,
    ])
      await refusal(attach(text));
    expect((await house.api.listServers({ query: {} })).items).to.deep.equal([]);
    expect((await house.api.listCredentials({ query: {} })).items).to.deep.equal([]);
  });

  it('takes a key that is given after a refusal in place of the one in the text', async () => {
    const text = `${lift.url}\nAuthorization: Bearer wrong-key-1234`;
    expect((await refusal(attach(text, { name: 'lift' }))).code).to.equal('server_wants_key');
    expect(await attach(text, { name: 'lift', secret: LIFT_KEY })).to.deep.include({ state: 'ready', also: [] });
    expect((await house.api.listCredentials({ query: {} })).items).to.have.length(1);
  });

  it('gives a name that is free, and refuses what there is not', async () => {
    await attach(`${lift.url}\nAuthorization: ${LIFT_KEY}`, { name: 'server' });
    expect((await understand(lift.url))[0]!.name).to.equal('server-2');
    expect((await refusal(attach(lift.url, { at: 3 }))).detail).to.contain('none at index 3');
    expect((await refusal(understand('please attach my server'))).code).to.equal('attach_unclear');
    expect((await refusal(understand('x'.repeat(500_001)))).code).to.equal('request_invalid');
  });
});

describe('what goes along with a tool server', () => {
  let house: Workspace;
  let lift: Lift;
  let gate: Gate;
  beforeEach(async () => {
    house = await workspace();
    lift = await startTestLift();
    // Wants two keys at the same time.
    gate = await startGate(lift.url, LIFT_KEY, ({ headers, url }) =>
      Boolean(headers['x-api-key'] === GATE_KEY && url?.includes('api_key=second-key-of-it')),
    );
    await house.api.attachRecognized({
      body: { text: `${gate.url}/mcp?api_key=second-key-of-it\nX-Api-Key: ${GATE_KEY}\nX-Hut: larch`, name: 'gate' },
    });
  });
  afterEach(() => Promise.all([house.close(), lift.close(), gate.close()]));
  const call = () => house.api.callServerTool({ name: 'gate', tool: 'lift_status', body: { arguments: {} } });

  it('is used wherever it is named, follows new names, and is asked for before it is removed', async () => {
    const { credential, also } = await house.api.getServer({ name: 'gate' });
    expect([credential, ...also]).to.deep.equal(['gate-key', 'gate-key-2']);
    await house.api.renameCredential({ name: 'gate-key-2', body: { to: 'second' } });
    expect((await house.api.getServer({ name: 'gate' })).also).to.deep.equal(['second']);
    expect((await call()).isError).to.equal(false);
    expect((await house.api.credentialUses({ name: 'second' })).items).to.deep.equal(['tool server "gate"']);
    expect((await refusal(house.api.removeCredential({ name: 'second', query: {} }))).code).to.equal('in_use');
  });

  it('is changed one by one, tried before it is kept', async () => {
    const change = (body: object) => house.api.updateServer({ name: 'gate', body });
    expect((await refusal(change({ also: [] }))).code).to.equal('server_wants_key');
    expect((await house.api.getServer({ name: 'gate' })).also).to.have.length(1);
    expect((await change({ headers: { 'X-Hut': 'kestrel' } })).headers).to.deep.equal({ 'X-Hut': 'kestrel' });
    expect((await call()).isError).to.equal(false);
    expect(gate.asked.at(-1)!.headers).to.include({ 'x-hut': 'kestrel' });
    expect((await refusal(change({ also: ['nobody'] }))).code).to.equal('not_found');
    for (const headers of [{ 'X Hut': 'a' }, { 'X-Hut': 'a\r\nX-Other: b' }, { '': 'a' }])
      expect((await refusal(change({ headers }))).code, JSON.stringify(headers)).to.equal('request_invalid');
  });

  it('goes into files of the workspace but for what is secret, and comes back from them', async () => {
    const { files } = await house.api.exportWorkspace({ query: {} });
    const text = files['servers/gate.yaml']!;
    expect(text).to.contain('X-Hut: larch').and.contain('gate-key-2');
    expect(JSON.stringify(files)).not.to.contain(GATE_KEY).and.not.contain('second-key-of-it');
    const changed = { 'servers/gate.yaml': text.replace('larch', 'kestrel') };
    await house.api.importWorkspace({ body: { files: changed, overwrite: true } });
    expect((await house.api.getServer({ name: 'gate' })).headers).to.deep.equal({ 'X-Hut': 'kestrel' });
  });
});
