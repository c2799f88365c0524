import { spawn } from 'node:child_process';
import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { PINDRO, pindro } from '../support/process.js';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

const DESK = deskFlow('toolbox: [{ flow: reserve-bunks, name: reserve_bunks, approval: every }]');

describe('the terminal', () => {
  let house: Workspace;
  let model: Awaited<ReturnType<typeof startModel>>;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    model = await startModel();
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.api.importFlow({ body: { document: DESK } });
  });
  after(async () => {
    await house.close();
    await model.close();
  });
  const env = () => ({ PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey });
  const QUESTION = 'Reserve bunks for 2 people in larch on 2027-02-14.';

  /** A chat whose lines come from a pipe. */
  const chat = (lines: string[], args: string[] = []) =>
    new Promise<{ code: number | null; out: string }>((done) => {
      const child = spawn(process.execPath, [PINDRO, 'chat', 'desk', ...args], { env: { ...process.env, ...env() } });
      let out = '';
      child.stdout.on('data', (piece) => (out += piece));
      child.stderr.on('data', (piece) => (out += piece));
      child.once('close', (code) => done({ code, out }));
      child.stdin.end(`${lines.join('\n')}\n`);
    });

  it('answers approvals inside of a chat: yes, no with a reason, another value', async () => {
    const yes = await chat(['/help', QUESTION, 'party=3', 'y', '/exit']);
    expect(yes.out).to.contain('/new').and.contain('approve?').and.contain('will be sent: {"hut":"larch"');
    expect(yes.code, yes.out).to.equal(0);
    const { items } = await house.api.tableRows({ name: 'bookings' });
    expect(items[0]).to.include({ hut: 'larch', party: 3 });
    const no = await chat([QUESTION, 'n the hut is closed', '']);
    expect(no.out).to.contain('the hut is closed');
    expect((await house.api.tableRows({ name: 'bookings' })).count).to.equal(1);
    expect((await chat(['/nothing', ''])).out).to.contain('Unknown command /nothing');
  });

  it('waits with -m until somebody decides, or says at once that it does not', async () => {
    const at = ['chat', 'desk', '-m', QUESTION];
    expect((await pindro([...at, '--no-wait'], { env: env() })).code).to.equal(5);
    const open = async () => (await house.api.listApprovals({})).items.map((one) => one.run);
    const before = await open();
    const waiting = pindro([...at, '--json'], { env: env() });
    let run: string | undefined;
    while (!run) {
      run = (await open()).find((one) => !before.includes(one));
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    expect((await pindro(['approval', 'approve', run], { env: env() })).code).to.equal(0);
    const { code, out } = await waiting;
    expect([code, JSON.parse(out).state]).to.deep.equal([0, 'done']);
  });

  it('fits tables into the width there is, and says what is left out', async () => {
    for (const COLUMNS of ['80', '40']) {
      const { out } = await pindro(['run', 'list'], { env: { ...env(), COLUMNS } });
      for (const line of out.split('\n').slice(0, -2)) expect(line.length, line).to.be.at.most(Number(COLUMNS));
      if (COLUMNS === '40') expect(out).to.match(/Hidden columns: .*Widen the terminal, or add --json/);
    }
    expect((await pindro(['run', 'list'], { env: env() })).out).not.to.contain('Hidden columns');
  });

  it('prints a key alone, fills it into settings, and takes text inputs as they are written', async () => {
    const issued = await pindro(['key', 'issue', 'ines', '--endpoint', 'huts'], { env: env() });
    expect(issued.out).to.match(/^pindro_\S+\n$/);
    expect(issued.err).to.contain('Shown only once').and.contain('--for KEY');
    const key = issued.out.trim();
    const connect = await pindro(['endpoint', 'connect', 'huts', '--for', `Bearer ${key}`, '--json'], { env: env() });
    const { settings } = JSON.parse(connect.out) as { settings: { text: string; language: string }[] };
    for (const { text, language } of settings) {
      expect(text).to.contain(key).and.not.contain('PASTE-YOUR-KEY');
      if (language === 'json') expect(() => JSON.parse(text)).not.to.throw();
    }
    const echo =
      'format: pindro/flow@1\nname: echo\ninput: { type: object, properties: { id: { type: string }, n: { type: integer } } }\nsteps:\n  a: { kind: shape, with: { value: "${ input }" } }\nresult: "${ steps.a.value }"\n';
    await house.api.importFlow({ body: { document: echo } });
    const { out } = await pindro(['flow', 'run', 'echo', '--set', 'id=7', '--set', 'n=7', '--json'], { env: env() });
    expect(JSON.parse(out).result).to.deep.equal({ id: '7', n: 7 });
    const chosen = await pindro(['endpoint', 'select-tool', 'huts', QUESTION], { env: env() });
    expect(chosen.out).to.contain('→ reserve_bunks {"hut":"larch"');
  });

  it('ends with a code that tells', async () => {
    const folder = `${house.data}/files`;
    expect((await pindro(['workspace', 'export', folder], { env: env() })).code).to.equal(0);
    expect((await pindro(['workspace', 'diff', folder], { env: env() })).code).to.equal(0);
    await house.api.createTable({ body: { name: 'another', columns: { a: 'text' } } });
    expect((await pindro(['workspace', 'diff', folder], { env: env() })).code).to.equal(1);
    const hello = {
      jsonrpc: '2.0',
      id: 1,
      method: 'initialize',
      params: { protocolVersion: '2025-11-25', capabilities: {}, clientInfo: { name: 'a', version: '1' } },
    };
    const child = spawn(process.execPath, [PINDRO, 'bridge', 'huts'], {
      env: { ...process.env, ...env(), PINDRO_KEY: 'pindro_wrong' },
    });
    child.stdin.write(`${JSON.stringify(hello)}\n`);
    const answer = await new Promise<string>((done) => child.stdout.once('data', (piece) => done(String(piece))));
    expect(answer).to.contain('error');
    child.stdin.end();
    expect(await new Promise((done) => child.once('close', done))).to.equal(1);
  });
});
