import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { connect as connectSocket } from 'node:net';
import { join } from 'node:path';
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
      }),
    );
    return made;
  };

  it('prints one line of JSON with all that is needed, and nothing else', () => {
    const { contract, lines } = demo;
    expect(lines).to.have.length(1);
    expect(Object.keys(contract)).to.have.members([
      'url',
      'broken',
      'failedRuns',
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
    expect(new Set(codes)).to.include.keys('tool_error', 'arguments_refused', 'stopped_on_purpose');
  });

  it('finds nothing in the runs that went well', async () => {
    const { items } = await api().listRuns({ query: { state: 'done' } });
    expect(items.length).to.be.above(5);
    for (const one of items) {
      const { findings, flow } = await api().getRun({ id: one.id });
      // What was refused and then mended stays told, as that.
      expect(
        findings.filter(({ severity }) => severity !== 'warning'),
        flow,
      ).to.deep.equal([]);
      expect(one.doubt, flow).to.equal(null);
    }
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
      (
        await pindro(['chat', 'warden-desk', '--message', message, '--no-wait', '--session', 'newcomer'], {
          env: env(),
        })
      ).out;
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

  it('has a desk that asks first for a group, mends what is refused, hands provisions on, and asks for what is missing', async () => {
    const say = async (message: string, session: string) =>
      (await pindro(['chat', 'warden-desk', '--message', message, '--no-wait', '--session', session], { env: env() }))
        .out;
    const handed = await say(
      'Send 400 kg of gas or as much as goes up to kestrel on 2027-03-13. Order provisions: 2 sacks of flour for kestrel on 2027-03-14.',
      'handing',
    );
    expect(handed).to.contain('at most 350 kg').and.contain('"weight_kg":350');
    expect(handed).to.contain('→ order_provisions (the provisions desk orders)').and.contain('✓ order provisions');
    const [desk] = (await api().listRuns({ query: { flow: 'warden-desk', session: 'handing' } })).items;
    const run = await api().getRun({ id: desk!.id });
    expect(run.children.map(({ flow }) => flow)).to.include.members([
      'provisions-desk',
      'order-provisions',
      'send-load',
    ]);
    expect(run.receipt).to.deep.include({ open: [], contradicts: null });

    const group = await say('Reserve 12 bunks in kestrel for 2027-03-20.', 'group');
    expect(group).to.contain('Approval required: Allow warden-desk to call reserve bunks?');
    const question = (await api().listApprovals({})).items.find(({ flow }) => flow === 'warden-desk')!;
    expect(question.facts).to.deep.equal({ hut: 'kestrel', night: '2027-03-20', party: 12 });
    const approved = await pindro(['approval', 'approve', question.run, '--set', 'party=10'], { env: env() });
    expect(approved.code, approved.err).to.equal(0);
    await until(async () => (await api().getRun({ id: question.run })).state === 'done', 'the group to be booked');
    expect(String((await api().getRun({ id: question.run })).result)).to.contain('party 10');

    expect(await say('Reserve bunks for 2 people.', 'missing')).to.contain('What is missing to reserve bunks');
    const form = (await api().listApprovals({})).items.find(({ answers }) => answers === 'caller')!;
    expect(Object.keys(form.schema!.properties as object)).to.deep.equal(['hut', 'night']);
    const answer = ['approval', 'approve', form.run, '--set', 'hut=larch', '--set', 'night=2027-04-02'];
    expect((await pindro(answer, { env: env() })).code).to.equal(0);
    await until(async () => (await api().getRun({ id: form.run })).state === 'done', 'the form to be answered');
    expect(String((await api().getRun({ id: form.run })).result))
      .to.contain('hut larch')
      .and.contain('party 2');
  });

  it('touches no workspace that is not its own', async () => {
    const other = temporary();
    writeFileSync(join(other, 'pindro.db'), '');
    const { code, err } = await pindro(['demo', '--data', other, '--port', '0']);
    expect(code).to.equal(1);
    expect(err).to.contain('the directory contains a workspace that is not a demo').and.contain('--data');
    discard(other);
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
