import { execFile } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { PINDRO, pindro } from '../support/process.js';
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

const AGENT = `format: pindro/flow@1
name: desk
title: Desk of the huts
description: Answers questions about huts and lift loads.
labels: [front]
input: { type: object, required: [message], properties: { message: { type: string, description: What is asked } } }
steps:
  ask:
    kind: agent
    with:
      model: house
      instructions: You keep the desk.
      message: "\${ input.message }"
      memory: { key: ["\${ session.id }"] }
      toolbox: [{ server: lift, use: ["lift_status"] }, { endpoint: huts, use: [reserve_bunks] }]
result: "\${ steps.ask.answer }"
`;
const LIFT = `format: pindro/flow@1
name: loads
description: Tells how the lift runs.
steps: { look: { kind: tool, with: { server: lift, tool: lift_status } } }
result: { running: "\${ steps.look.data.running }" }
`;

describe('a workspace that moves', () => {
  let from: Workspace;
  let to: Workspace;
  let lift: Awaited<ReturnType<typeof startTestLift>>;
  let model: Awaited<ReturnType<typeof startModel>>;
  beforeEach(async () => {
    [from, to, lift, model] = await Promise.all([workspace(), workspace(), startTestLift(), startModel()]);
    const { api, service } = from;
    furnish(service);
    await api.attachServer({
      body: { name: 'lift', url: lift.url, secret: LIFT_KEY, rules: { station: { set: 'valley' } } },
    });
    await api.addModel({
      body: { name: 'house', base: model.url, model: 'house-1', settings: { temperature: 0.2 } },
    });
    for (const document of [AGENT, LIFT]) service.flows.drafts.save(document);
    for (const name of ['desk', 'loads']) await api.publishFlow({ name, body: { note: 'as it was' } });
    service.flows.drafts.save(LIFT.replace('Tells how', 'Says how'));
    await api.addTools({ name: 'huts', body: { tools: { loads: { flow: 'loads' }, desk: { flow: 'desk' } } } });
    await api.createEntry({ body: { flow: 'loads', settings: { kind: 'hook', guard: 'key' } } });
    await api.createEntry({
      body: { flow: 'loads', settings: { kind: 'schedule', cron: '0 6 * * *', zone: '', input: {} } },
    });
    await api.addRow({ name: 'bookings', body: { row: { hut: 'larch', night: '2027-02-14', party: 3 } } });
    await api.updateWorkshop({ body: { on: true, open: ['loads'] } });
    await api.addPerson({ body: { name: 'marit', role: 'operator' } });
  });
  afterEach(async () => {
    await Promise.all([from.close(), to.close()]);
    await Promise.all([lift.close(), model.close()]);
  });

  const envOf = ({ service, apiKey }: Workspace) => ({ PINDRO_URL: service.url, PINDRO_KEY: apiKey });
  /** Runs a command as it was printed, in a shell, with a secret where one is asked for. */
  const shell = (command: string, house: Workspace, input: string) =>
    new Promise<string>((resolve, reject) => {
      const line = command.replace(/^pindro /, `"${process.execPath}" "${PINDRO}" `);
      const child = execFile(
        '/bin/sh',
        ['-c', line],
        { env: { ...process.env, ...envOf(house), NO_COLOR: '1' } },
        (error, out) => (error ? reject(error) : resolve(out)),
      );
      child.stdin!.end(input);
    });

  it('into an empty one, in one go: the printed commands fill its gaps, and a client calls its tools', async () => {
    const folder = join(from.data, 'files');
    const exported = await pindro(['workspace', 'export', folder, '--rows', '--people'], { env: envOf(from) });
    expect(exported.code, exported.err).to.equal(0);
    const written = readdirSync(folder, { recursive: true }).map(String);
    expect(written).to.include.members([
      'servers/lift.yaml',
      'models/house.yaml',
      'live/loads.yaml',
      'rows/bookings.yaml',
    ]);
    for (const file of written.filter((name) => name.endsWith('.yaml')))
      expect(readFileSync(join(folder, file), 'utf8'), file).not.to.contain(LIFT_KEY);
    const imported = await pindro(['workspace', 'import', folder, '--json'], { env: envOf(to) });
    expect(imported.code, imported.out).to.equal(0);
    const { gaps, refused } = JSON.parse(imported.out) as { gaps: { what: string; command: string }[]; refused: [] };
    expect(refused).to.deep.equal([]);
    const issued = new Map<string, string>();
    for (const { command } of gaps) {
      const out = await shell(command, to, LIFT_KEY);
      if (command.includes('key issue')) issued.set(command, out.split('\n')[0]!);
    }
    await until(async () => (await to.api.getServer({ name: 'lift' })).state === 'ready', 'the lift to be reached');
    const [, key] = [...issued].find(([command]) => command.includes('--caller ines'))!;
    const client = await connect(to.service, key);
    expect((await client.listTools()).tools.map(({ name }) => name)).to.include.members([
      'loads',
      'desk',
      'reserve_bunks',
    ]);
    expect((await callTool(client, 'loads', {})).structuredContent).to.deep.equal({ running: true });
    expect((await callTool(client, 'desk', { message: 'Does the lift run?' })).isError ?? false).to.equal(false);
    await client.close();
    // As it was: the revision, what waits in the draft, rules, settings, ways in, rows, what is open, who may come in.
    const loads = await to.api.getFlow({ name: 'loads' });
    expect(loads).to.include({ revision: 1, changed: true });
    expect(loads.revisions[0]).to.include({ note: 'as it was' });
    expect((await to.api.getServer({ name: 'lift' })).rules).to.deep.equal({ station: { set: 'valley' } });
    expect((await to.api.getModel({ name: 'house' })).settings).to.deep.equal({ temperature: 0.2 });
    expect((await to.api.listEntries({})).items.map(({ settings }) => settings.kind)).to.have.members([
      'hook',
      'schedule',
    ]);
    expect((await to.api.tableRows({ name: 'bookings' })).items[0]).to.include({ party: 3 });
    expect((await to.api.getWorkshop()).flows.filter(({ open }) => open).map(({ name }) => name)).to.deep.equal([
      'loads',
    ]);
    expect((await to.api.listPeople()).items.map(({ name }) => name)).to.include('marit');
    const diff = await pindro(['workspace', 'diff', folder, '--json'], { env: envOf(to) });
    const different = (JSON.parse(diff.out) as { items: { path: string }[] }).items.map(({ path }) => path);
    expect(different).to.deep.equal([]);
  });

  it('over another one: what differs is really overwritten, what stays keeps its ids and secrets, all or nothing', async () => {
    const { files } = await from.api.exportWorkspace();
    await to.api.importWorkspace({ body: { files } });
    const origins = [new URL(lift.url).origin];
    await to.api.addCredential({
      body: { name: 'lift-key', account: 'tool server lift', secret: LIFT_KEY, origins },
    });
    // With its credential it connects in the background, which is announced as a change as well.
    await until(async () => (await to.api.getServer({ name: 'lift' })).state === 'ready', 'the connection');
    const [before] = (await to.api.listEntries({})).items;
    const changed = Object.fromEntries(
      Object.entries(files).map(([path, text]) => [
        path,
        path === 'servers/lift.yaml'
          ? text.replace('set: valley', 'set: top')
          : path === 'tables/bookings.yaml'
            ? text.replace('by: text', 'by: text\n  paid: boolean')
            : path === 'models/house.yaml'
              ? text.replace('0.2', '0.9')
              : text,
      ]),
    );
    const told: string[] = [];
    to.service.bus.on('changed', (what, name) => told.push(`${what} ${name}`));
    const broken = {
      ...changed,
      'entries/loads.yaml': files['entries/loads.yaml']!.replace('0 6 * * *', '0 6 31 2 *'),
    };
    const refused = await to.api.importWorkspace({ body: { files: broken, overwrite: true } });
    expect(refused.refused.map(({ path }) => path)).to.deep.equal(['entries/loads.yaml']);
    expect(told).to.deep.equal([]);
    expect((await to.api.getModel({ name: 'house' })).settings).to.deep.equal({ temperature: 0.2 });
    const done = await to.api.importWorkspace({ body: { files: changed, overwrite: true } });
    expect(done.done).to.have.members(['servers/lift.yaml', 'tables/bookings.yaml', 'models/house.yaml']);
    expect((await to.api.getServer({ name: 'lift' })).rules).to.deep.equal({ station: { set: 'top' } });
    expect((await to.api.getTable({ name: 'bookings' })).columns.map(({ name }) => name)).to.include('paid');
    expect((await to.api.listEntries({})).items[0]!.id).to.equal(before!.id);
    expect((await to.api.callServerTool({ name: 'lift', tool: 'lift_status', body: {} })).isError).to.equal(false);
    const { items } = await to.api.compareWorkspace({ body: { files: changed } });
    const differing = items.filter(({ change }) => change !== 'same').map(({ path }) => path);
    // The schedule waits to be switched on.
    expect(differing).to.deep.equal(['entries/loads.yaml', 'keys.yaml']);
  });

  it('leaves keys in addresses behind as gaps, and says when it is no workspace', async () => {
    await from.api.updateServer({
      name: 'lift',
      body: { url: `${lift.url}?api_key=a-key-in-an-address`, skipTest: true },
    });
    const { files } = await from.api.exportWorkspace();
    expect(JSON.stringify(files)).not.to.contain('a-key-in-an-address');
    const { gaps } = await to.api.importWorkspace({ body: { files } });
    expect(gaps.map(({ command }) => command)).to.include('pindro server update lift --address ADDRESS');
    const none = await to.api
      .importWorkspace({ body: { files: { 'readme.md': 'x' } } })
      .catch((error: Error) => error.message);
    expect(none).to.contain('not a workspace');
    mkdirSync(join(to.data, 'empty'));
    const empty = await pindro(['workspace', 'import', join(to.data, 'empty')], { env: envOf(to) });
    expect([empty.code, empty.err]).to.satisfy(
      ([code, err]: [number, string]) => code === 1 && err.includes('not a workspace'),
    );
  });

  it('hands one flow on with what it needs, and matches that to what is there', async () => {
    const file = join(from.data, 'desk.bundle.yaml');
    await pindro(['flow', 'bundle', 'desk', file], { env: envOf(from) });
    const text = readFileSync(file, 'utf8');
    expect(text).to.contain('name: lift').and.contain('name: house').and.not.contain(LIFT_KEY);
    const plain = await pindro(['flow', 'import', file, '--json'], { env: envOf(to) });
    expect(plain.code, plain.out).to.equal(0);
    const { gaps } = JSON.parse(plain.out) as { gaps: { command: string }[] };
    expect(gaps.map(({ command }) => command.split(' ').slice(0, 3).join(' '))).to.deep.equal([
      'pindro server attach',
      'pindro model add',
      'pindro endpoint create',
    ]);
    await to.api.attachServer({ body: { name: 'cable', url: lift.url, secret: LIFT_KEY } });
    await pindro(['flow', 'import', file, '--match', 'lift=cable', '--overwrite'], { env: envOf(to) });
    expect((await to.api.getFlow({ name: 'desk' })).text).to.contain('server: cable');
    const again = await pindro(['flow', 'import', file], { env: envOf(to) });
    expect([again.code, again.err]).to.satisfy(
      ([code, err]: [number, string]) => code === 1 && err.includes('already'),
    );
  });

  it('takes files of flows in whatever order they come', async () => {
    const file = (name: string, text: string) => {
      const path = join(to.data, 'flows', name);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, text);
      return path;
    };
    const calls = (name: string, other: string) =>
      `format: pindro/flow@1\nname: ${name}\nsteps: { a: { kind: flow, with: { flow: ${other} } } }\nresult: "\${ steps.a.result }"\n`;
    const files = [
      file('a.yaml', calls('first', 'second')),
      file('b.yaml', calls('second', 'third')),
      file(
        'c.yaml',
        'format: pindro/flow@1\nname: third\nsteps: { a: { kind: text, with: { text: Hello } } }\nresult: "${ steps.a.text }"\n',
      ),
    ];
    const done = await pindro(['flow', 'import', ...files, '--publish'], { env: envOf(to) });
    expect(done.code, done.err).to.equal(0);
    expect((await to.api.runFlow({ name: 'first', body: { stage: 'live' } })).result).to.equal('Hello');
  });
});
