import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { PINDRO, pindro } from '../support/process.js';
import { LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const REMOVE = (more: string) => `format: pindro/flow@1
name: take-off
description: Take an item off the shelf.
input: { type: object, required: [item], properties: { item: { type: string, description: Name of the item } } }
steps:
  take:
    kind: table
    with: { table: shelf, do: remove, where: { item: "\${ input.item }" } }
${more}`;
const SILENT = REMOVE('result: "We took ${ input.item } off the shelf."\n');
const HONEST =
  REMOVE(`  gone: { kind: answer, after: [take.none], with: { result: "There is no \${ input.item } on the shelf." } }
  done: { kind: answer, after: [take], with: { result: "We took \${ input.item } off the shelf." } }
`);
const AGENT = (off: boolean) =>
  deskFlow(
    `toolbox: [{ off: ${off}, server: lift, use: [schedule_load], tools: { schedule_load: { approval: every } } }]`,
  );

describe('the newcomer script in the terminal', function () {
  this.timeout(120_000);
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  before(async () => {
    house = await workspace();
    [model, lift] = await Promise.all([startModel(), startTestLift()]);
  });
  after(async () => {
    await house.close();
    await lift.close();
    await model.close();
  });
  const env = () => ({ PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey });
  const run = (...args: string[]) => pindro(args, { env: env() });
  const good = async (...args: string[]) => {
    const { out, err, code } = await run(...args);
    expect(code, `${args.join(' ')}: ${out}${err}`).to.equal(0);
    return `${out}${err}`;
  };
  const file = (name: string, text: string) => {
    writeFileSync(join(house.data, name), text);
    return join(house.data, name);
  };

  it('1. a flow that changes nothing says so, before and after it runs', async () => {
    await good('table', 'create', 'shelf', 'item:text');
    await good('row', 'add', 'shelf', 'item=rope');
    const checked = await run('flow', 'check', file('silent.yaml', SILENT));
    expect(checked.out + checked.err)
      .to.contain('if no row matches')
      .and.contain('take.none');
    await good('flow', 'import', file('silent.yaml', SILENT));
    await good('flow', 'run', 'take-off', '--set', 'item=Nonsense');
    expect(await good('run', 'list')).to.contain('changed nothing: no row of "shelf" matched');
    await good('flow', 'import', file('honest.yaml', HONEST));
    expect(await good('flow', 'run', 'take-off', '--set', 'item=Nonsense')).to.contain('There is no Nonsense');
    expect(await good('flow', 'run', 'take-off', '--set', 'item=rope')).to.contain('We took rope off the shelf');
  });

  it('2. a client calls the tool with the settings that were printed', async () => {
    await good('flow', 'expose', 'take-off', '--endpoint', 'shop');
    const key = (await run('key', 'issue', 'newcomer', '--endpoint', 'shop')).out.trim();
    const { settings } = JSON.parse((await run('endpoint', 'connect', 'shop', '--for', key, '--json')).out) as {
      settings: { shape: string; text: string }[];
    };
    const { mcpServers } = JSON.parse(settings.find(({ shape }) => shape === 'json')!.text) as {
      mcpServers: Record<string, { url: string; headers: Record<string, string> }>;
    };
    const { url, headers } = mcpServers.shop!;
    const client = new Client({ name: 'newcomer', version: '1' });
    await client.connect(new StreamableHTTPClientTransport(new URL(url), { requestInit: { headers } }));
    const answer = await client.callTool({ name: 'take_off', arguments: { item: 'Nonsense' } });
    expect(JSON.stringify(answer)).to.contain('There is no Nonsense');
    await client.close();
  });

  it('3. a tool server is attached, tested, and lists its values', async () => {
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    expect(await good('server', 'test', 'lift')).to.contain('responds with 4 tools');
    const load = { hut: 'larch', day: '2027-02-14', weight_kg: '20' };
    const set = Object.entries(load).flatMap(([name, value]) => ['--set', `${name}=${value}`]);
    await good('server', 'call', 'lift', 'schedule_load', ...set);
    expect(await good('server', 'call', 'lift', 'cancel_load', '--set', 'load=?')).to.contain('L-0001');
  });

  const chat = (lines: string[]) =>
    new Promise<string>((done) => {
      const child = spawn(process.execPath, [PINDRO, 'chat', 'desk'], { env: { ...process.env, ...env() } });
      let out = '';
      child.stdout.on('data', (piece) => (out += piece));
      child.once('close', () => done(out));
      child.stdin.end(`${lines.join('\n')}\n`);
    });
  const QUESTION = 'Schedule a load of 40 kg flour to larch on 2027-02-15.';

  it('4. an agent asks before it calls, and does what was changed', async () => {
    await good('model', 'add', 'house', model.url, 'house');
    await good('flow', 'import', file('desk.yaml', AGENT(false)));
    const out = await chat([QUESTION, 'weight_kg=30', 'y', '']);
    expect(out).to.contain('approve?').and.contain('schedule load');
    const { data } = await house.api.callServerTool({ name: 'lift', tool: 'list_loads', body: {} });
    expect(JSON.stringify(data)).to.contain('"weight_kg":30');
  });

  it('5. a row of the toolbox is switched off and on', async () => {
    await good('flow', 'import', file('desk.yaml', AGENT(true)));
    model.asked.length = 0;
    await chat([QUESTION, '']);
    expect(JSON.stringify(model.asked)).not.to.contain('schedule_load');
    await good('flow', 'import', file('desk.yaml', AGENT(false)));
    expect(await chat([QUESTION, 'n not today', ''])).to.contain('not today');
  });

  it('6. the list of runs shows the failed call', async () => {
    await chat(['Schedule a load of 900 kg flour to larch on 2027-02-16.', 'y', '']);
    const out = await good('run', 'list', '--flow', 'desk');
    expect(out).to.match(/desk .*(failed|350)/);
  });
});
