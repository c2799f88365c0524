/*
 * Makes a fresh checkout ready: installs the packages and builds, each only where something is missing or has changed.
 * Says what it does on standard error and puts nothing on standard output. Uses nothing but Node itself.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const MODULES = join(root, 'node_modules');
const NEEDED = [20, 19];

export const say = (text) => process.stderr.write(`pindro: ${text}\n`);

export function fail(text) {
  say(text);
  process.exit(1);
}

/** Reports every ten seconds that a command still runs, from a process of its own: this one waits for the command. */
const TICK = `let s = 0; setInterval(() => process.stderr.write(\`pindro: … \${(s += 10)} s\\n\`), 10_000);`;

/** Runs a command with all it prints on standard error. */
function run(command, args, why) {
  const ticker = spawn(process.execPath, ['-e', TICK], { stdio: ['ignore', 'ignore', 2] });
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: ['ignore', 2, 2] });
  ticker.kill();
  if (error || status !== 0)
    fail(`${why} failed${error ? `: ${error.message}` : ` with code ${status}`}. What it said is above.`);
}

function requireNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > NEEDED[0] || (major === NEEDED[0] && minor >= NEEDED[1])) return;
  fail(
    `Node ${NEEDED.join('.')} or newer is needed; this is ${process.versions.node}. Install a newer one and try again.`,
  );
}

/** The newest change below a folder, in milliseconds. */
function newest(path) {
  if (!existsSync(path)) return 0;
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  const inside = readdirSync(path).filter((name) => name !== 'dist' && name !== 'node_modules');
  return Math.max(stat.mtimeMs, ...inside.map((name) => newest(join(path, name))));
}

/** Does a piece of work unless it was done since its sources last changed. */
function unlessFresh(name, sources, work) {
  const stamp = join(MODULES, `.pindro-${name}`);
  const changed = Math.max(...sources.map((source) => newest(join(root, source))));
  if (existsSync(stamp) && statSync(stamp).mtimeMs > changed) return;
  const begun = Date.now();
  work();
  writeFileSync(stamp, `${begun}\n`);
}

function install() {
  const stamp = join(MODULES, '.pindro-installed');
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say('installing the packages of package-lock.json with npm; the first time this takes a minute …');
  run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error'], 'npm ci');
  writeFileSync(stamp, lock);
}

const bin = (name) => join(MODULES, '.bin', name);

export function prepare() {
  requireNode();
  install();
  run(process.execPath, ['scripts/transpile.mjs'], 'The build');
  unlessFresh(
    'console',
    ['packages/console', 'packages/core/src', 'packages/contract/src', 'package-lock.json'],
    () => {
      say('building the console …');
      run(bin('vite'), ['build', 'packages/console', '--logLevel', 'error'], 'The build of the console');
    },
  );
}
