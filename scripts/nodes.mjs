/*
 * Tries Pindro on the other versions of Node that the README names: `npm run nodes`, or `npm run nodes -- --tests` for all
 * tests. Each version is a package of the registry with the binary inside.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fail, prepare, root, say } from './prepare.mjs';

const VERSIONS = ['22', '24'];
const PINDRO = join(root, 'packages/cli/bin/pindro.js');
/** So long a command may take, in milliseconds. */
const PATIENCE = 60_000;

/** The binary of a version, fetched once. */
function binaryOf(version) {
  const home = join(root, 'node_modules/.cache/nodes', version);
  const binary = join(home, 'package/bin/node');
  if (existsSync(binary)) return binary;
  const making = `${home}.making`;
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { recursive: true });
  const name = `node-${process.platform}-${process.arch}@${version}`;
  const run = (command, args) => {
    const { status } = spawnSync(command, args, { cwd: making, stdio: ['ignore', 'ignore', 2] });
    if (status !== 0) fail(`${command} ${args.join(' ')} failed with code ${status}`);
  };
  say(`fetching ${name} …`);
  run('npm', ['pack', name, '--silent', '--loglevel=error']);
  run('sh', ['-c', 'tar -xzf *.tgz && rm *.tgz']);
  rmSync(home, { recursive: true, force: true });
  renameSync(making, home);
  return binary;
}

/** Runs a command line and holds it against what it should say. */
function expectSaid(node, env, words, pattern, input = '') {
  const { status, stdout, stderr } = spawnSync(node, [PINDRO, ...words], {
    ...{ env: { ...process.env, ...env, NO_COLOR: '1' }, input, encoding: 'utf8', timeout: PATIENCE },
  });
  if (status !== 0 || !pattern.test(stdout))
    fail(`pindro ${words.join(' ')} ended with ${status}:\n${stdout}${stderr}`);
}

/** The demo as a newcomer meets it: it starts, flows run, an agent is talked to through a pipe, and it ends in good order. */
async function smoke(node) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-nodes-'));
  const demo = spawn(node, [PINDRO, 'demo', '--json', '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const ended = new Promise((done) => demo.once('exit', done));
  try {
    const lines = createInterface({ input: demo.stdout });
    const ready = await new Promise((done, refuse) => {
      lines.on('line', (line) => (line.startsWith('{') ? done(JSON.parse(line)) : say(line)));
      demo.once('exit', (code) => refuse(new Error(`the demo ended with ${code}`)));
    });
    const env = { PINDRO_URL: ready.url, PINDRO_KEY: ready.apiKey };
    expectSaid(node, env, ['status'], /flows/);
    expectSaid(node, env, ['flow', 'list'], /reserve-bunks/);
    expectSaid(node, env, ['row', 'list', 'huts'], /kestrel/);
    expectSaid(node, env, ['flow', 'run', 'bunk-availability', '-s', 'hut=larch', '-s', 'night=2027-02-14'], /\d/);
    expectSaid(node, env, ['chat', 'warden-desk'], /pindro run show/, 'Which huts are there?\nThank you.\n');
    expectSaid(node, env, ['backup'], /restore/);
  } finally {
    demo.kill('SIGTERM');
    const code = await ended;
    rmSync(data, { recursive: true, force: true });
    if (code !== 0) fail(`the demo ended with ${code}`);
  }
}

prepare();
for (const version of VERSIONS) {
  const node = binaryOf(version);
  await smoke(node);
  say(`Node ${version}: the demo and the command line work`);
  if (!process.argv.includes('--tests')) continue;
  const { status } = spawnSync(node, [join(root, 'scripts/test.mjs')], { stdio: 'inherit' });
  if (status !== 0) fail(`the tests failed on Node ${version}`);
}
