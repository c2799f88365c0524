import { readFileSync } from 'node:fs';
import { createClient, type ProblemError } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import { PROGRAMS } from '@pindro/standins';
import { expect } from 'chai';
import { oddServer } from '../support/faulty-server.js';
import { startReady } from '../support/process.js';
import { refusal } from '../support/refusal.js';
import { discard, temporary, until, type Workspace, workspace } from '../support/workspace.js';

const node = process.execPath;
const faulty = (...args: string[]) => ({ command: node, args: [PROGRAMS.faulty, ...args], env: {} });
const isAlive = (pid: number) => {
  try {
    process.kill(pid, 0);
    // A process that ended and that nobody has waited for is no longer there.
    return !/^State:\s+Z/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'));
  } catch {
    return false;
  }
};

describe('a program of this machine as a tool server', function () {
  this.timeout(30_000);
  let house: Workspace;
  beforeEach(async () => {
    house = await workspace();
  });
  afterEach(() => house.close());
  const attach = (program: object, more = {}) =>
    house.api.attachServer({ body: { name: 'trails', program: program as never, ...more } });
  const call = (tool: string, args: object = {}) =>
    house.api.callServerTool({ name: 'trails', tool, body: { arguments: args as never } });
  const server = () => house.api.getServer({ name: 'trails' });
  const log = async () => (await house.api.serverLog({ name: 'trails', query: {} })).items;
  const texts = async () => (await log()).map(({ text }) => text).join('\n');
  /** The process that it is now. */
  const pid = async () => Number(/as process (\d+)(?![\s\S]*as process)/.exec(await texts())?.[1]);

  it('is attached by a command line, called, and its log can be read', async () => {
    const { items } = await house.api.recognizeServers({ body: { text: `${node} ${PROGRAMS.trails}` } });
    expect(items[0]).to.include({ cannot: null, url: null });
    const made = await house.api.attachRecognized({ body: { text: `${node} ${PROGRAMS.trails}`, name: 'trails' } });
    expect(made).to.include({ speaks: 'stdio', about: 'Trail Report 1.2.0', tools: 3 });
    expect(made.instructions).to.contain('before you send anybody');
    expect((await call('trail_report', { trail: 'larch-traverse' })).data).to.include({ state: 'careful' });
    expect(await server()).to.include({ state: 'ready', where: `${node} ${PROGRAMS.trails}` });
    const lines = await log();
    expect(lines.filter(({ from }) => from === 'program').map(({ text }) => text)).to.include(
      'trail-report: asked about larch-traverse',
    );
    const [, later] = lines;
    const rest = await house.api.serverLog({ name: 'trails', query: { after: later!.id } });
    expect(rest.items).to.have.length(lines.length - 2);
  });

  it('is found by its command line, and becomes a server of an address where it is given one', async () => {
    await attach({ command: node, args: [PROGRAMS.trails], env: {} });
    const found = async (search: string) => (await house.api.listServers({ query: { search } })).items.length;
    expect([await found('trails/main'), await found('no-such-program')]).to.deep.equal([1, 0]);
    const odd = await oddServer([{ name: 'weigh', inputSchema: { type: 'object' } }], () => ({ content: [] }));
    const gone = await refusal(house.api.updateServer({ name: 'trails', body: { url: 'http://127.0.0.1:9/mcp' } }));
    expect(gone.code).to.equal('server_unreachable');
    expect(await server()).to.include({ speaks: 'stdio', url: '' });
    const moved = await house.api.updateServer({ name: 'trails', body: { url: odd.url } });
    expect(moved).to.include({ program: null, where: odd.url, speaks: 'http', tools: 1 });
    await call('weigh');
    expect(odd.calls).to.deep.equal([{ tool: 'weigh', arguments: {} }]);
    odd.close();
  });

  it('is given its keys as credentials, which no answer, log or list shows', async () => {
    const text = `TRAIL_TOKEN=warden-s3cret-1 ${node} ${PROGRAMS.trails} --token warden-s3cret-2`;
    const [one] = (await house.api.recognizeServers({ body: { text } })).items;
    expect(JSON.stringify(one)).not.to.contain('s3cret');
    expect(one!.repairs.join(' ')).to.match(/--token is stored encrypted.*TRAIL_TOKEN is stored encrypted/s);
    const made = await house.api.attachRecognized({ body: { text, name: 'trails' } });
    expect(made.program).to.deep.include({
      args: [PROGRAMS.trails, '--token', { credential: 'trails-key' }],
      env: { TRAIL_TOKEN: { credential: 'trails-key-2' } },
    });
    const day = { trail: 'larch-traverse', state: 'open', says: 'signed warden-s3cret-2', day: '2027-02-14' };
    expect(JSON.stringify(await call('report_trail', day))).not.to.contain('s3cret');
    const all = await Promise.all([server(), log(), house.api.exportWorkspace({ query: {} })]);
    expect(JSON.stringify(all)).not.to.contain('s3cret');
    const kept = await house.api.getCredential({ name: 'trails-key' });
    expect(kept).to.include({ kind: 'environment', used: 'taken' });
    expect(kept.origins![0]).to.match(/^program:/);
    expect(kept.usedBy).to.deep.equal(['tool server "trails"']);
  });

  it('is given what a credential that is there already holds, and one that is not there is told', async () => {
    const program = { command: node, args: [PROGRAMS.trails, '--token', { credential: 'warden' }] };
    expect((await refusal(attach(program))).code).to.equal('not_found');
    await house.api.addCredential({ body: { name: 'warden', kind: 'environment', secret: 'warden-token' } });
    await attach(program);
    const day = { trail: 'larch-traverse', state: 'open', says: 'dry', day: '2027-02-14' };
    expect((await call('report_trail', day)).isError).to.equal(false);
    for (const command of ['a\0b', ''])
      expect((await refusal(attach({ command, args: [] }))).code).to.equal('request_invalid');
  });

  it('a value that only its place stands for is asked for, by the name of its argument', async () => {
    const text = `${node} ${PROGRAMS.trails} --token <your token>`.replace('<your token>', '"<your token>"');
    const [one] = (await house.api.recognizeServers({ body: { text } })).items;
    expect(one!.args).to.deep.equal([
      { name: '--token', value: '', secret: true, missing: true, why: 'has a name that suggests a secret' },
    ]);
    const refused = await refusal(house.api.attachRecognized({ body: { text, name: 'trails' } }));
    expect(refused.detail).to.contain('--token');
    await house.api.attachRecognized({ body: { text, name: 'trails', values: { '--token': 'warden-token' } } });
    const day = { trail: 'larch-traverse', state: 'open', says: 'dry', day: '2027-02-14' };
    expect((await call('report_trail', day)).isError).to.equal(false);
  });

  for (const [what, program, code, words] of [
    [
      'is not there',
      { command: 'no-such-program', args: [], env: {} },
      'program_not_started',
      /no program no-such-program/,
    ],
    ['exits at once', faulty('--fault', 'exits'), 'program_ended', /with code 3.*the reservoir is empty/],
    ['writes only prose', faulty('--fault', 'deaf'), 'program_babbles', /Usage: faulty/],
    ['floods', faulty('--fault', 'floods'), 'program_babbles', /snow/],
    [
      'is a script that is not there',
      { command: node, args: ['/no/such/script.mjs'], env: {} },
      'program_ended',
      /Cannot find module '\/no\/such\/script\.mjs'/,
    ],
    [
      'is to work in a folder that is not there',
      { ...faulty(), cwd: '/no/such/folder' },
      'program_not_started',
      /no working directory \/no\/such\/folder/,
    ],
    [
      'reads a file that is missing',
      { command: node, args: [PROGRAMS.trails, '--reports', '/no/such/file'], env: {} },
      'program_ended',
      /no file \/no\/such\/file with reports/,
    ],
  ] as const)
    it(`one that ${what} is told as that, and nothing is kept`, async () => {
      const problem = await refusal(attach(program, { limits: { connect: '2s' } }));
      expect(problem.code, problem.detail).to.equal(code);
      expect(problem.detail).to.match(words);
      expect((await house.api.listServers({ query: {} })).items).to.deep.equal([]);
    });

  it('prose between its messages does no harm, and stands in the log', async () => {
    await attach(faulty('--fault', 'prose'));
    expect((await call('closes').catch((error: ProblemError) => error.problem)) as object).to.include({
      code: 'tool_reported_error',
    });
    expect(await texts()).to.contain('Welcome to the faulty server!');
  });

  it('ends with what it started, also when it ignores that it is told to', async () => {
    await attach(faulty('--fault', 'stubborn', '--child'));
    await refusal(call('closes'));
    const own = await pid();
    const child = Number([...(await texts()).matchAll(/child (\d+)/g)].at(-1)![1]);
    expect([isAlive(own), isAlive(child)]).to.deep.equal([true, true]);
    await house.api.removeServer({ name: 'trails', query: {} });
    await until(() => !isAlive(own) && !isAlive(child), 'both to end', 10_000);
  });

  it('one that dies under a call says so with its last words, and is there again when it is needed', async () => {
    await attach(faulty());
    const problem = await refusal(call('drops'));
    expect(problem.code).to.equal('server_lost');
    expect(problem.detail).to.match(/exited with code 1.*the rope has slipped/);
    expect(await server()).to.include({ state: 'unreachable' });
    expect((await server()).fix).to.match(/log/);
    expect(await texts()).to.contain('the rope has slipped');
    expect((await call('good')).text).to.equal('all is well');
    expect(await server()).to.include({ state: 'ready', trouble: null });
  });

  it('one that is killed by hand is started again at the next call', async () => {
    await attach(faulty());
    await call('good');
    process.kill(await pid(), 'SIGKILL');
    await until(async () => (await server()).state === 'unreachable', 'it to be missed');
    expect((await server()).trouble).to.contain('SIGKILL');
    expect((await call('good')).text).to.equal('all is well');
  });

  it('is stopped when nobody uses it, and started when somebody does', async () => {
    await attach(faulty(), { limits: { idle: '300ms', call: '999d' } });
    expect(await server()).to.include({ state: 'idle' });
    await call('good');
    const own = await pid();
    await until(() => !isAlive(own), 'it to be stopped');
    expect(await server()).to.include({ state: 'idle', trouble: null });
    expect(await texts()).to.contain('300 ms without use');
    expect((await call('good')).text).to.equal('all is well');
  });

  it('a list that grows without end and an answer that is too large do not bring it down', async () => {
    await attach(faulty());
    const problem = await refusal(call('large', { megabytes: 200 }));
    expect(problem.code).to.equal('answer_too_large');
    expect((await call('good')).text).to.equal('all is well');
    await call('turns', { list: 'huge' });
    await until(async () => (await server()).tools >= 1000, 'the list');
    expect((await server()).tools).to.be.at.most(1500);
  });

  it('only an owner may add or change one, and one out of a file waits until somebody lets it run', async () => {
    const { url } = await house.api.addPerson({ body: { name: 'tobias', role: 'builder' } });
    const answer = await fetch(url, { redirect: 'manual' });
    const cookie = answer.headers.get('set-cookie')!.split(';')[0]!;
    const send = (path: string, body: object, method = 'POST') =>
      fetch(`${house.service.url}/api/v1${path}`, {
        method,
        headers: { cookie, 'content-type': 'application/json', origin: house.service.url },
        body: JSON.stringify(body),
      }).then(async (one) => (await one.json()) as { code: string; items: { cannot: string }[] });
    const text = `${node} ${PROGRAMS.trails}`;
    const program = { command: node, args: [PROGRAMS.trails], env: {} };
    expect((await send('/servers', { name: 'trails', program })).code).to.equal('role_too_low');
    expect((await send('/servers/attach', { text })).code).to.equal('role_too_low');
    expect((await send('/servers/understand', { text })).items[0]!.cannot).to.contain('requires the role owner');
    await attach(program);
    expect((await send('/servers/trails', { program }, 'PUT')).code).to.equal('role_too_low');
    expect((await send('/servers/trails/copy', { to: 'again' })).code).to.equal('role_too_low');
    const { files } = await house.api.exportWorkspace({ query: {} });
    await house.api.removeServer({ name: 'trails', query: {} });
    await house.api.importWorkspace({ body: { files } }).then(({ gaps }) => {
      expect(gaps.map(({ command }) => command)).to.deep.equal(['pindro server allow trails']);
    });
    expect(await server()).to.include({ allowed: false });
    expect((await refusal(call('list_trails'))).code).to.equal('program_not_allowed');
    expect(
      await house.api.allowProgram({
        name: 'trails',
        body: (await house.api.programPermission({ name: 'trails' })).fingerprint,
      }),
    ).to.include({ allowed: true, state: 'ready' });
    expect((await call('list_trails')).isError).to.equal(false);
  });
});

describe('which programs may be run', function () {
  this.timeout(20_000);
  const refusedWith = async (settings: object, args: string[], env = {}) => {
    const house = await workspace(settings);
    const attaching = { name: 'trails', url: '', rules: {}, program: () => ({ command: node, args, env }) };
    try {
      await house.service.servers.attach({ ...attaching, by: house.service.host });
      return null;
    } catch (error) {
      if (error instanceof PindroError) return error;
      throw error;
    } finally {
      await house.close();
    }
  };

  it('is said by a setting: none, any, or those that are named with what they are given first', async () => {
    expect((await refusedWith({ programs: ['none'] }, [PROGRAMS.trails]))!.code).to.equal('program_forbidden');
    expect(await refusedWith({ programs: ['any'] }, [PROGRAMS.trails])).to.equal(null);
    expect(await refusedWith({ programs: [`${node} ${PROGRAMS.trails}`] }, [PROGRAMS.trails])).to.equal(null);
    const other = await refusedWith({ programs: [`${node} ${PROGRAMS.trails}`] }, ['-e', '1']);
    expect(other!.message).to.contain('not on the list');
    const misled = await refusedWith({ programs: [`${node} ${PROGRAMS.trails}`] }, [PROGRAMS.trails], {
      NODE_OPTIONS: '--require /tmp/other.js',
    });
    expect(misled!.message).to.contain('NODE_OPTIONS');
  });

  it('is none where other machines reach the service and nobody named any', async () => {
    const problem = await refusedWith({ publicUrl: 'https://pindro.alder-ridge.example' }, [PROGRAMS.trails]);
    expect(problem!.code).to.equal('program_forbidden');
    expect(problem!.hint).to.contain('--programs');
  });
});

describe('a service that is ended without a word', function () {
  this.timeout(30_000);

  it('leaves no program behind for longer than until its next start', async () => {
    const data = temporary();
    const serve = () => startReady<{ url: string; apiKey: string }>(['serve', '--json', '--port', '0', '--data', data]);
    const first = await serve();
    const api = createClient({ url: first.contract.url, key: first.contract.apiKey });
    await api.attachServer({ body: { name: 'trails', program: faulty('--fault', 'stubborn') } });
    await refusal(api.callServerTool({ name: 'trails', tool: 'closes', body: { arguments: {} } }));
    const { items } = await api.serverLog({ name: 'trails', query: {} });
    const own = Number(
      /as process (\d+)/.exec(items.filter(({ text }) => text.includes('as process')).at(-1)!.text)![1],
    );
    first.child.kill('SIGKILL');
    expect(isAlive(own)).to.equal(true);
    const second = await serve();
    await until(() => !isAlive(own), 'it to end');
    await second.stop();
    discard(data);
  });
});
