import { spawn } from 'node:child_process';
import { connect as connectSocket } from 'node:net';
import { createInterface } from 'node:readline';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { type DemoContract, PINDRO, pindro, type Running, startDemo } from '../support/process.js';
import { callTool, discard, temporary, until } from '../support/workspace.js';

const isOpen = (url: string) =>
  new Promise<boolean>((resolve) => {
    const socket = connectSocket(Number(new URL(url).port), '127.0.0.1', () => {
      socket.destroy();
      resolve(true);
    });
    socket.on('error', () => resolve(false));
  });

describe('the demo', function () {
  this.timeout(120_000);
  let data: string;
  let demo: Running<DemoContract>;
  before(async () => {
    data = temporary();
    demo = await startDemo(data);
  });
  after(async () => {
    await demo.stop();
    discard(data);
  });
  const env = () => ({ PINDRO_URL: demo.contract.url, PINDRO_KEY: demo.contract.apiKey });
  const api = () => createClient({ url: demo.contract.url, key: demo.contract.apiKey });
  const client = async () => {
    const made = new Client({ name: 'newcomer', version: '1.0.0' });
    const { url, keys } = demo.contract.endpoints[0]!;
    await made.connect(
      new StreamableHTTPClientTransport(new URL(url), {
        requestInit: { headers: { Authorization: `Bearer ${keys[0]!.key}` } },
      }) as never,
    );
    return made;
  };

  it('prints one line of JSON with all that is needed, and nothing else', () => {
    const { contract, lines } = demo;
    expect(lines).to.have.length(1);
    expect(Object.keys(contract)).to.have.members([
      'url',
      'signIn',
      'apiKey',
      'endpoints',
      'flows',
      'toolServers',
      'faulty',
      'models',
    ]);
    expect(contract.flows).to.include.members(['bunk-availability', 'reserve-bunks', 'send-load', 'warden-desk']);
    expect(contract.endpoints).to.have.length(1);
    expect(contract.endpoints[0]).to.include({ name: 'huts', url: `${contract.url}/mcp/huts` });
    expect(contract.endpoints[0]!.keys.map(({ caller }) => caller)).to.deep.equal(['ines', 'tobias']);
    expect(contract.toolServers[0]).to.include({ name: 'lift' });
    expect(contract.models).to.deep.equal(['house']);
  });

  it('comes with real runs, some of which failed for different reasons', async () => {
    const { items } = await api().listRuns({ query: { state: 'failed' } });
    const codes = await Promise.all(items.map(async (run) => (await api().getRun({ id: run.id })).findings[0]?.code));
    expect(new Set(codes)).to.include.keys('tool_error', 'arguments_refused', 'step_failed');
  });

  it('serves its huts to a standard client', async () => {
    const mine = await client();
    const { tools } = await mine.listTools();
    expect(tools.map((tool) => tool.name)).to.deep.equal(['bunk_availability', 'reserve_bunks', 'next_lift_loads']);
    expect(tools[2]!.inputSchema.properties).not.to.have.property('station');
    const free = async () =>
      Number(
        (await callTool(mine, 'bunk_availability', { hut: 'kestrel', night: '2027-08-01' })).structuredContent!.free,
      );
    expect(await free()).to.equal(24);
    expect(
      (await callTool(mine, 'reserve_bunks', { hut: 'kestrel', night: '2027-08-01', party: 20 })).isError,
    ).to.not.equal(true);
    expect(await free()).to.equal(4);
    await mine.close();
  });

  it('has a desk that reserves, sends loads and remembers', async () => {
    const say = async (message: string) =>
      (await pindro(['chat', 'warden-desk', '--message', message, '--session', 'newcomer'], { env: env() })).out;
    const first = await say(
      'Reserve 3 bunks in larch for 2027-02-14 and send 90 kg of flour up to larch on 2027-02-13.',
    );
    expect(first)
      .to.contain('→ reserve_bunks (flow reserve-bunks)')
      .and.contain('→ schedule_load (lift)')
      .and.contain('load L-');
    expect(await say('How many bunks are free there on 2027-02-14?'))
      .to.contain('"hut":"larch"')
      .and.contain('free 13');
    const mails = await api().listMails();
    expect(mails.items[0]).to.deep.include({ to: ['larch@alder-ridge.example'] });
  });

  it('explains a load that is too heavy', async () => {
    const { out } = await pindro(
      ['flow', 'run', 'send-load', '--set', 'hut=larch', '--set', 'day=2027-02-14', '--set', 'weight_kg=400', '--json'],
      { env: env() },
    );
    const { run } = JSON.parse(out);
    const shown = (await pindro(['run', 'show', run], { env: env() })).out.split('\n');
    expect(shown[0]).to.contain('schedule_load of lift refused weight_kg = 400');
  });

  it('loses nothing when the lift dies, Pindro restarts and the lift comes back', async () => {
    const lift = demo.contract.toolServers[0]!;
    process.kill(lift.pid, 'SIGKILL');
    await until(
      async () => (await api().getServer({ name: 'lift' })).state === 'unreachable',
      'the loss to be noticed',
      20_000,
    );
    const failed = await api().runFlow({
      name: 'send-load',
      body: { input: { hut: 'larch', day: '2027-02-14', weight_kg: 10 } },
    });
    expect(failed.error?.code).to.equal('server_unreachable');
    const again = spawn(process.execPath, [PINDRO, 'demo', '--standin', 'lift', '--data', data], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const line = await new Promise<string>((resolve) =>
      createInterface({ input: again.stdout! }).once('line', resolve),
    );
    expect(JSON.parse(line).url).to.equal(lift.url);
    await until(async () => (await api().getServer({ name: 'lift' })).state === 'ready', 'the reconnection', 20_000);
    expect(
      (await api().runFlow({ name: 'send-load', body: { input: { hut: 'larch', day: '2027-02-14', weight_kg: 10 } } }))
        .state,
    ).to.equal('done');
    again.kill('SIGTERM');
    await new Promise((resolve) => again.once('exit', resolve));
    await until(async () => !(await isOpen(lift.url)), 'the port to be free');

    const before = (await api().listRuns({ query: { limit: 200 } })).items.length;
    const { contract } = demo;
    expect(await demo.stop('SIGTERM')).to.equal(0);
    demo = await startDemo(data);
    expect(demo.contract.flows).to.deep.equal(contract.flows);
    expect(demo.contract.endpoints[0]!.keys).to.deep.equal(contract.endpoints[0]!.keys);
    expect(demo.contract.apiKey).to.equal(contract.apiKey);
    expect((await api().listRuns({ query: { limit: 200 } })).items.length).to.equal(before);
    const mine = await client();
    expect(await callTool(mine, 'next_lift_loads', {}))
      .to.have.nested.property('structuredContent.loads')
      .that.has.length.above(1);
    await mine.close();
  });
});
