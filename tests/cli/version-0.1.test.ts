import { spawn } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildProgram } from '@pindro/cli/program';
import { renameFormer } from '@pindro/cli/renamed';
import { expect } from 'chai';
import { PINDRO, pindro } from '../support/process.js';
import { type Workspace, workspace } from '../support/workspace.js';

const FIXTURE = fileURLToPath(new URL('../../fixtures/version-0.1', import.meta.url));

/** What version 0.1 wrote, and its commands, in this version. */
describe('version 0.1', function () {
  this.timeout(180_000);
  let folder: string;
  let house: Workspace;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'pindro-old-'));
  });
  afterEach(async () => {
    await house.close();
    rmSync(folder, { recursive: true, force: true });
  });
  const environment = () => ({ PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey });

  it('wrote data directories whose problems, runs, tools and keys are read', async () => {
    cpSync(join(FIXTURE, 'data'), folder, { recursive: true });
    house = await workspace({ data: folder });
    const { api } = house;
    const { items } = await api.listProblems({ query: { state: 'resolved' } });
    expect(items).to.have.length(1);
    expect(items[0]).to.include({ flow: 'greet', note: 'asked for it' });
    const runs = (await api.listRuns({ query: {} })).items;
    expect(runs.map(({ flow, state }) => `${flow} ${state}`)).to.deep.equal(['greet failed', 'greet done']);
    expect((await api.getRun({ id: runs[0]!.id })).findings[0]!.title).to.contain('"guest"');
    expect((await api.getEndpoint({ name: 'huts' })).toolList[0]).to.include({ description: 'Greets Marit.' });
    expect((await api.listEntries({ query: {} })).items.map(({ settings }) => settings.kind)).to.have.members([
      'hook',
      'schedule',
    ]);
    expect((await api.getSample({ name: 'greet', sample: 'one' })).input).to.deep.equal({ guest: 'Tobias' });
    const failed = await api.retryRun({ id: runs[1]!.id, body: {} });
    expect(failed).to.include({ state: 'done', result: 'Welcome, Marit.' });
  });

  it('exported workspaces that are imported', async () => {
    house = await workspace();
    const where = join(FIXTURE, 'workspace');
    const imported = await pindro(['workspace', 'import', where, '--overwrite'], { env: environment() });
    expect(imported.code, imported.err).to.equal(0);
    const { items } = await house.api.listFlows({ query: {} });
    expect(items.map(({ name }) => name)).to.have.members(['greet', 'second']);
    expect((await house.api.getTable({ name: 'guests' })).rows).to.equal(1);
    expect((await house.api.getFlow({ name: 'greet' })).text).to.equal(
      readFileSync(join(where, 'flows/greet.yaml'), 'utf8'),
    );
  });

  it('had commands and options that still work, each with a notice that gives the new name', async () => {
    house = await workspace();
    const child = spawn('bash', [join(FIXTURE, 'commands.sh')], {
      cwd: folder,
      env: { PATH: process.env.PATH, PINDRO, NO_COLOR: '1', ...environment() },
    });
    let out = '';
    let err = '';
    child.stdout.on('data', (piece) => (out += piece));
    child.stderr.on('data', (piece) => (err += piece));
    const code = await new Promise((resolve) => child.on('close', resolve));
    expect(code, err).to.equal(0);
    expect(out).to.contain('Welcome, Marit.').and.contain('10 files in ws');
    for (const [former, present] of [
      ['endpoint word', 'endpoint describe-tool'],
      ['flow live', 'flow activate'],
      ['figures', 'metrics'],
      ['--anyway', '--force'],
      ['--guard', '--auth'],
    ])
      expect(err).to.contain(`"${former}" is deprecated and will be removed in version 0.3. Use "${present}".`);
    expect((await house.api.getEndpoint({ name: 'huts' })).toolList[0]).to.include({ name: 'greet_guest' });
  });

  it('had addresses and fields of the API that still work', async () => {
    house = await workspace();
    await house.api.importFlow({
      body: { document: readFileSync(join(FIXTURE, 'workspace/flows/greet.yaml'), 'utf8') },
    });
    const send = async (method: string, path: string, body?: object) => {
      const response = await fetch(`${house.service.url}/api/v1${path}`, {
        method,
        headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
        ...(body && { body: JSON.stringify(body) }),
      });
      return { response, json: (await response.json()) as Record<string, unknown> };
    };
    const ran = await send('POST', '/flows/greet/run', { input: { guest: 'Marit' }, exact: true });
    expect(ran.json).to.include({ state: 'done' });
    const again = await send('POST', `/runs/${ran.json.run}/again`, {});
    expect(again.json).to.include({ state: 'done' });
    expect(again.response.headers.get('deprecation')).to.match(/^@\d+$/);
    expect(again.response.headers.get('link')).to.contain(`/api/v1/runs/${ran.json.run}/retry`);
    expect((await send('GET', '/figures?by=flow&hours=1')).json.items).to.have.length(1);
    expect((await send('POST', '/flows/greet/publish', { anyway: true })).json).to.include({ revision: 1 });
    const wrong = await send('POST', '/flows/greet/publish', { anyhow: true });
    expect(wrong.json.detail).to.contain('No field "anyhow" here');
    expect((await send('DELETE', '/flows/greet?anyway=true')).json).to.have.property('removal');
  });
});

describe('the command line of version 0.1', () => {
  const program = buildProgram();
  const find = (words: string[]) =>
    words.reduce<(typeof program.commands)[number] | undefined>(
      (command, word) => command?.commands.find((one) => one.name() === word),
      program,
    );
  const lines = readFileSync(join(FIXTURE, 'command-line.txt'), 'utf8').trim().split('\n');

  it('works in every command and option, with its present name or a notice', () => {
    const gone: string[] = [];
    for (const line of lines) {
      const words = line.split(' ');
      const command = words.filter((word) => !word.startsWith('--'));
      for (const option of [undefined, ...words.filter((word) => word.startsWith('--'))]) {
        const { args } = renameFormer(option === undefined ? command : [...command, option]);
        const found = find(args.filter((word) => !word.startsWith('--')));
        const options = [...(found?.options ?? []), ...program.options].map(({ long }) => long);
        if (!found || (option !== undefined && !options.includes(args.at(-1)))) gone.push(`${line}: ${option}`);
      }
    }
    expect(lines).to.have.length.above(200);
    expect(gone).to.deep.equal([]);
  });
});
