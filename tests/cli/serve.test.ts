import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { PINDRO, pindro, type Running, startReady } from '../support/process.js';
import {
  callTool,
  connect,
  discard,
  furnish,
  temporary,
  until,
  type Workspace,
  workspace,
} from '../support/workspace.js';

interface Ready {
  url: string;
  signIn: string;
  apiKey: string;
}

/** Starts a command that stays, for people; collects what it prints. */
function startForPeople(args: string[], cwd: string) {
  const child = spawn(process.execPath, [PINDRO, ...args], {
    env: { PATH: process.env.PATH, NO_COLOR: '1' },
    cwd,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const printed = { out: '', err: '' };
  child.stdout.on('data', (piece) => {
    printed.out += piece;
  });
  child.stderr.on('data', (piece) => {
    printed.err += piece;
  });
  const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
  return {
    printed,
    stop: () => {
      child.kill('SIGINT');
      return ended;
    },
  };
}

describe('starting the service', () => {
  let folder: string;
  beforeEach(() => {
    folder = temporary();
  });
  afterEach(() => discard(folder));

  it('tells people where it is, and one line for each call as it happens', async () => {
    const served = startForPeople(['serve', '--port', '0'], folder);
    await until(() => served.printed.out.includes('Ctrl-C to stop'), 'the service to be ready', 15_000);
    expect(served.printed.out)
      .to.match(/Pindro is running at http:\/\/127\.0\.0\.1:\d+/)
      .and.contain('sign in with "pindro sign-in"')
      .and.contain('.pindro/client.json')
      .and.not.contain('code=');
    const file = join(folder, '.pindro/client.json');
    expect(statSync(file).mode & 0o777).to.equal(0o600);
    const { url, key } = JSON.parse(readFileSync(file, 'utf8'));
    const api = createClient({ url, key });
    await api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: hello\ninput: { type: object, required: [n], properties: { n: { type: integer } } }\nsteps: { a: { kind: text, with: { text: "${ input.n }" } } }\nresult: "${ steps.a.text }"',
      },
    });
    await api.runFlow({ name: 'hello', body: { input: { n: 1 } } });
    const exposed = await api.exposeFlow({ name: 'hello', body: { endpoint: 'main', caller: 'marit' } });
    const client = await connect({ url }, exposed.key, 'main');
    await callTool(client, 'hello', { n: 2 });
    await callTool(client, 'hello', {});
    await client.close();
    await until(() => /main\.hello {2}marit {2}failed/.test(served.printed.out), 'the lines of the calls');
    const lines = served.printed.out.split('\n').filter((line) => /^\d\d:\d\d:\d\d {2}/.test(line));
    expect(lines.map((line) => line.slice(10).replace(/ in .*?ms/, ''))).to.have.members([
      'hello  owner  done',
      'main.hello  marit  done',
      'main.hello  marit  failed  The input is invalid: "n" is missing. Correct these inputs and send it again.',
    ]);
    // A command in the same folder needs to be told nothing.
    expect(await pindro(['flow', 'list'], { cwd: folder })).to.include({ code: 0, err: '' });
    expect(await served.stop()).to.equal(0);
    expect(served.printed.err).to.equal('');
    expect(existsSync(join(folder, '.pindro/data/pindro.pid'))).to.equal(false);
  });

  it('keeps key and workspace from one start to the next', async () => {
    const data = join(folder, 'data');
    const first: Running<Ready> = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    await createClient({ url: first.contract.url, key: first.contract.apiKey }).createTable({
      body: { name: 't', columns: { a: 'text' } },
    });
    expect(await first.stop()).to.equal(0);
    const second: Running<Ready> = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    expect(second.contract.apiKey).to.equal(first.contract.apiKey);
    expect(
      (await createClient({ url: second.contract.url, key: second.contract.apiKey }).listTables()).items.map(
        (table) => table.name,
      ),
    ).to.deep.equal(['t']);
    await second.stop();
  });

  it('seals with a key from the environment, and then writes no key file', async () => {
    const data = join(folder, 'data');
    const env = { PINDRO_SECRET_KEY: Buffer.alloc(32, 3).toString('base64') };
    const served: Running<Ready> = await startReady(['serve', '--json', '--port', '0', '--data', data], env);
    await createClient({ url: served.contract.url, key: served.contract.apiKey }).addCredential({
      body: { name: 'c', secret: 'abcdef' },
    });
    await served.stop();
    expect(existsSync(join(data, 'secret.key'))).to.equal(false);
  });

  it('ends with three things to try when it is the demo, each of which works', async function () {
    this.timeout(40_000);
    const demo = startForPeople(['demo', '--port', '0'], folder);
    await until(() => demo.printed.out.includes('Press Ctrl-C to'), 'the demo to be ready', 25_000);
    const tries = [...demo.printed.out.matchAll(/^ {2}\d\. .*?npx pindro (.*)$/gm)].map((match) =>
      match[1]!.trim().split(' '),
    );
    expect(tries).to.have.length(3);
    for (const args of tries) {
      const { code, err } = await pindro(args, {
        cwd: folder,
        input: 'How many bunks are free in larch tomorrow?\n\n',
      });
      expect([code, err], args.join(' ')).to.deep.equal([0, '']);
    }
    expect(demo.printed.err).to.contain('starting the simulated services').and.contain('creating the huts');
    expect(await demo.stop()).to.equal(0);
  });
});

describe('where commands find the service', () => {
  let house: Workspace;
  let folder: string;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    folder = temporary();
    mkdirSync(join(folder, '.pindro'));
    writeFileSync(join(folder, '.pindro/client.json'), JSON.stringify({ url: house.service.url, key: house.apiKey }));
  });
  after(async () => {
    await house.close();
    discard(folder);
  });
  const from = async (args: string[], env: NodeJS.ProcessEnv = {}) => {
    const { out, code } = await pindro([...args, 'status'], { cwd: folder, env });
    return { code, from: /address from (.*)\)/.exec(out)?.[1] };
  };

  it('flags win over the environment, which wins over the file', async () => {
    const { url } = house.service;
    expect(await from([])).to.deep.equal({ code: 0, from: '.pindro/client.json' });
    expect(await from([], { PINDRO_URL: url })).to.deep.equal({ code: 0, from: 'PINDRO_URL' });
    expect(await from(['--url', url], { PINDRO_URL: 'http://127.0.0.1:1' })).to.deep.equal({ code: 0, from: '--url' });
    expect((await from(['--key', 'pindro_wrong'])).code).to.equal(4);
    const missing = await pindro(['status'], { cwd: folder, env: { PINDRO_SETTINGS: '/nowhere.json' } });
    expect([missing.code, missing.err]).to.satisfy(
      ([code, err]: [number, string]) => code === 1 && err.includes('/nowhere.json') && err.includes('PINDRO_SETTINGS'),
    );
    expect((await from(['--url', `${url}/`])).code).to.equal(0);
  });

  it('a kept key goes only to the address it was kept for', async () => {
    const other = await workspace();
    expect((await from(['--url', other.service.url])).code).to.equal(4);
    await other.close();
  });

  it('a broken settings file is told, not passed over', async () => {
    const file = join(folder, 'broken.json');
    writeFileSync(file, '{');
    const { code, err } = await pindro(['--settings', file, 'status'], { cwd: folder });
    expect(code).to.equal(1);
    expect(err).to.contain(`${file} cannot be read: not valid JSON`);
  });
});
