import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { TestEvent } from '@pindro/contract';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { oddServer } from '../support/faulty-server.js';
import { refusal } from '../support/refusal.js';
import { LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const LOAD = { hut: 'larch', day: '2027-02-14', weight_kg: 40 };

describe('the page of a tool server', () => {
  let house: Workspace;
  let lift: Lift;
  beforeEach(async () => {
    [house, lift] = await Promise.all([workspace(), startTestLift()]);
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
  });
  afterEach(() => Promise.all([house.close(), lift.close()]));
  const call = (tool: string, args: object = {}) =>
    house.api.callServerTool({ name: 'lift', tool, body: { arguments: args as never } });
  const server = () => house.api.getServer({ name: 'lift' });

  it('a call by hand is kept, changed, done again and forgotten', async () => {
    const keep = (name: string, args: object) =>
      house.api.saveServerSample({ name: 'lift', body: { tool: 'schedule_load', name, arguments: args as never } });
    await keep('gas', LOAD);
    await keep('gas', { ...LOAD, weight_kg: 60 });
    const { items } = await keep('wood', LOAD);
    expect(items.map(({ name, arguments: { weight_kg } }) => [name, weight_kg])).to.deep.equal([
      ['gas', 60],
      ['wood', 40],
    ]);
    expect((await call('schedule_load', items[0]!.arguments)).isError).to.equal(false);
    const left = await house.api.deleteServerSample({ name: 'lift', id: String(items[0]!.id) });
    expect(left.items.map(({ name }) => name)).to.deep.equal(['wood']);
    const unknown = { tool: 'schedule_lod', name: 'x', arguments: {} };
    expect((await refusal(house.api.saveServerSample({ name: 'lift', body: unknown }))).code).to.equal('tool_unknown');
    expect((await refusal(house.api.deleteServerSample({ name: 'lift', id: '999' }))).code).to.equal('not_found');
  });

  it('tells how calls went lately, and which tools the credential may use', async () => {
    expect((await server()).toolList.map(({ allowed }) => allowed)).to.deep.equal([null, null, null, null]);
    await call('lift_status');
    await call('schedule_load', { ...LOAD, weight_kg: 999 });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps: { a: { kind: tool, with: { server: lift, tool: cancel_load, arguments: { load: L-0009 } } } }',
    );
    const run = await house.api.runFlow({ name: 'ask', body: {} });
    expect(run.error?.code, JSON.stringify(run.error)).to.equal('tool_reported_error');
    const { total, tools, failures, over } = await house.api.serverActivity({ name: 'lift', query: { hours: 1 } });
    expect([total.calls, total.failed]).to.deep.equal([3, 2]);
    expect(total.p50).to.be.a('number');
    expect(over.reduce((sum, { calls }) => sum + calls, 0)).to.equal(3);
    expect(tools.map(({ tool, failed }) => [tool, failed])).to.have.deep.members([
      ['lift_status', 0],
      ['schedule_load', 1],
      ['cancel_load', 1],
    ]);
    expect(failures.map((one) => [one.tool, one.code, one.run])).to.deep.equal([
      ['cancel_load', 'tool_reported_error', run.run],
      ['schedule_load', 'tool_reported_error', null],
    ]);
    const { toolList, usedTools } = await server();
    expect(toolList.find(({ name }) => name === 'lift_status')!.allowed).to.equal('allowed');
    expect(usedTools).to.deep.equal([{ by: 'flow "ask"', tools: ['cancel_load'] }]);
  });

  it('answers of tools that only read are given again where somebody is content with that, and by credential', async () => {
    let asked = 0;
    const stock = await oddServer(
      [
        { name: 'stock', inputSchema: { type: 'object' }, annotations: { readOnlyHint: true } },
        { name: 'order', inputSchema: { type: 'object' } },
      ],
      () => ({ content: [{ type: 'text', text: String(++asked) }] }),
    );
    await house.api.attachServer({ body: { name: 'stores', url: stock.url } });
    const ask = async (tool: string, args: object, fresh: number) => {
      const options = { signal: new AbortController().signal, trace: { traceparent: '' }, idempotencyKey: '/x', fresh };
      return (await house.service.servers.call('stores', tool, args as never, options)).content[0]!.text;
    };
    expect(await ask('stock', { hut: 'larch', day: 1 }, 60_000)).to.equal('1');
    expect(await ask('stock', { day: 1, hut: 'larch' }, 60_000)).to.equal('1');
    expect(await ask('stock', { hut: 'kestrel' }, 60_000)).to.equal('2');
    expect(await ask('stock', { hut: 'larch', day: 1 }, 0)).to.equal('3');
    expect([await ask('order', {}, 60_000), await ask('order', {}, 60_000)]).to.deep.equal(['4', '5']);
    stock.close();
  });
});

describe('the test of a server, told as it happens', () => {
  let house: Workspace;
  let lift: Lift;
  before(async () => {
    house = await workspace({ resolve: async (host) => (host === 'lift.example' ? ['127.0.0.1'] : []) });
    lift = await startTestLift();
  });
  after(() => Promise.all([house.close(), lift.close()]));
  const watch = async (text: string, more: object = {}) => {
    const events: TestEvent[] = [];
    for await (const event of house.api.attachWithProgress({ body: { text, ...more } })) events.push(event);
    return events;
  };
  const parts = (events: TestEvent[]) =>
    events.flatMap((one) => (one.type === 'part' && one.state !== 'begun' ? [`${one.part} ${one.state}`] : []));

  it('each part that is done says what was found and how long it took', async () => {
    const { port } = new URL(lift.url);
    const events = await watch(`http://lift.example:${port}/mcp`, { secret: LIFT_KEY, name: 'lift' });
    expect(parts(events)).to.deep.equal(['name done', 'reach done', 'speak done', 'allow done', 'list done']);
    const said = events.flatMap((one) => (one.type === 'part' && one.state === 'done' ? [one.says] : []));
    expect(said).to.deep.equal([
      'lift.example is 127.0.0.1',
      'it responds with status 200',
      said[2],
      'with the given credentials',
      '4 tools',
    ]);
    expect(said[2]).to.match(/^Valley Lift \S+, with MCP 20\d\d-\d\d-\d\d$/);
    expect(events.at(-1)).to.have.nested.property('server.name', 'lift');
  });

  it('a part that fails is named, with what the server itself says it wants', async () => {
    const events = await watch(lift.url, { name: 'other' });
    expect(parts(events)).to.deep.equal(['name done', 'reach done', 'speak failed']);
    const last = events.at(-1) as Extract<TestEvent, { type: 'failed' }>;
    expect(last.problem.code).to.equal('server_wants_key');
    expect(last.problem.detail).to.contain('Bearer realm="valley lift"').and.contain('a valid bearer key is needed');
    const nowhere = await watch('http://huts.example/mcp');
    expect(parts(nowhere)).to.deep.equal(['name failed']);
    expect(parts(await watch('http://127.0.0.1:9/mcp'))).to.deep.equal(['name done', 'reach failed']);
    expect(parts(await watch(`${process.execPath} -e 1`))).to.deep.equal(['program done', 'speak failed']);
    expect((await house.api.listServers({ query: {} })).items.map(({ name }) => name)).to.deep.equal(['lift']);
  });

  it('whoever goes away in the middle of it has attached nothing', async () => {
    const slow = await startTestLift({ delay: 0 });
    const leaving = new AbortController();
    const body = { text: slow.url, name: 'left', secret: LIFT_KEY };
    try {
      for await (const event of house.api.attachWithProgress({ body, signal: leaving.signal }))
        if (event.type === 'part' && event.part === 'reach') leaving.abort();
    } catch {
      // The client says that it went.
    }
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect((await house.api.listServers({ query: {} })).items.map(({ name }) => name)).not.to.include('left');
    await slow.close();
  });

  it('one that does not answer is kept where somebody insists, and is there once it does', async () => {
    const { port } = new URL(lift.url);
    await lift.close();
    const kept = await house.api.attachRecognized({
      body: { text: `http://127.0.0.1:${port}/sse\nAuthorization: Bearer ${LIFT_KEY}`, name: 'later', skipTest: true },
    });
    expect(kept).to.include({ tools: 0, state: 'trying' });
    lift = await startTestLift({ port: Number(port) });
    await until(async () => (await house.api.getServer({ name: 'later' })).state === 'ready', 'it to be there', 15_000);
    expect(await house.api.getServer({ name: 'later' })).to.include({ speaks: 'sse', tools: 4, held: 0 });
  });
});

describe('credentials of tool servers', () => {
  let house: Workspace;
  let lift: Lift;
  beforeEach(async () => {
    [house, lift] = await Promise.all([workspace(), startTestLift()]);
  });
  afterEach(async () => {
    delete process.env.ROPEWAY_KEY;
    await Promise.all([house.close(), lift.close()]);
  });
  const call = () => house.api.callServerTool({ name: 'lift', tool: 'lift_status', body: { arguments: {} } });

  it('are read in the environment whenever they are used, and nowhere shown', async () => {
    const add = () =>
      house.api.addCredential({ body: { name: 'ropeway', kind: 'bearer', source: { environment: 'ROPEWAY_KEY' } } });
    expect((await refusal(add())).code).to.equal('secret_missing');
    process.env.ROPEWAY_KEY = LIFT_KEY;
    await add();
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, credential: 'ropeway' } });
    expect((await call()).isError).to.equal(false);
    process.env.ROPEWAY_KEY = 'another-key-by-now';
    await house.api.updateServer({ name: 'lift', body: { headers: { 'X-Hut': 'larch' }, skipTest: true } });
    expect((await refusal(call())).code).to.equal('server_wants_key');
    const { files } = await house.api.exportWorkspace({ query: {} });
    expect(files['credentials.yaml']).to.contain('environment: ROPEWAY_KEY').and.not.contain(LIFT_KEY);
    const odd = { name: 'odd', kind: 'bearer' as const, source: { file: '/dev/zero' } };
    expect((await refusal(house.api.addCredential({ body: odd }))).detail).to.contain('is not a file');
    const own = { name: 'own', kind: 'bearer' as const, source: { environment: 'PINDRO_SECRET_KEY' } };
    expect((await refusal(house.api.addCredential({ body: own }))).detail).to.contain('service itself');
  });

  it('old and new go side by side for a while: what refuses the new one is called with the old', async () => {
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    const changed = await house.api.replaceSecret({
      name: 'lift-key',
      body: { secret: 'the-key-of-tomorrow', keep: '1h' },
    });
    expect(changed.formerUntil).to.be.a('string');
    await until(async () => (await house.api.getServer({ name: 'lift' })).state === 'refused', 'the refusal');
    expect((await call()).isError).to.equal(false);
    const { items } = await house.api.serverLog({ name: 'lift', query: {} });
    expect(items.map(({ text }) => text)).to.include('the new secret was rejected; using the previous one for now');
    await house.api.replaceSecret({ name: 'lift-key', body: { secret: 'the-key-of-tomorrow' } });
  });

  it('are tested on every server that they go along with, and say when they were last used', async () => {
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await call();
    expect(await house.api.getCredential({ name: 'lift-key' })).to.include({ used: 'taken' });
    expect((await house.api.testCredential({ name: 'lift-key' })).items).to.deep.equal([
      { server: 'lift', ok: true, says: 'access granted' },
    ]);
    await house.api.replaceSecret({ name: 'lift-key', body: { secret: 'not-the-key' } });
    const [one] = (await house.api.testCredential({ name: 'lift-key' })).items;
    expect(one).to.include({ ok: false });
    expect(one!.says).to.contain('valid bearer key');
  });

  it('a value for programs goes along with no request', async () => {
    const body = { name: 'token', kind: 'environment' as const, secret: 'trail-token-1' };
    await house.api.addCredential({ body });
    const attach = house.api.attachServer({ body: { name: 'lift', url: lift.url, credential: 'token' } });
    expect((await refusal(attach)).code).to.equal('credential_unfit');
  });
});

describe('a catalogue at an address', () => {
  it('is read page after page, and what has the words is told', async () => {
    const entry = (name: string) => ({
      server: { name, description: 'Huts', remotes: [{ url: 'https://a.example/mcp' }] },
    });
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.url ?? '');
      const page = new URL(request.url ?? '', 'http://x').searchParams.get('cursor') ?? '0';
      const pages: Record<string, object> = {
        0: { servers: [entry('example.valley/lift')], metadata: { nextCursor: '1' } },
        1: { servers: [entry('example.ridge/trails'), entry('example.ridge/huts')], metadata: {} },
      };
      response.end(JSON.stringify(pages[page]));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const house = await workspace();
    const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/v0/servers?limit=1`;
    const find = async (words: string, where = address) =>
      (await house.api.searchCatalogue({ body: { address: where, words } })).items.map(({ name }) => name);
    expect(await find('ridge')).to.deep.equal(['example.ridge/trails', 'example.ridge/huts']);
    expect(asked).to.deep.equal(['/v0/servers?limit=1', '/v0/servers?limit=1&cursor=1']);
    expect((await refusal(find('', 'http://127.0.0.1:9/'))).code).to.equal('address_unreachable');
    expect((await refusal(house.api.searchCatalogue({ body: { text: '{}' } }))).code).to.equal('attach_unclear');
    await house.close();
    server.close();
  });
});
