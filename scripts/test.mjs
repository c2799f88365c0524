/*
 * Runs the tests. Names or parts of names of test files may follow: `npm test -- engine driver`. With `--changed`, those
 * that the uncommitted changes (or the last commit, when there are none) can affect.
 */
import { spawn } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join, relative } from 'node:path';
import { chromium } from './chromium.mjs';
import { prepare, root, say } from './prepare.mjs';

// `npm run test:busy` runs what must work on a machine that has much else to do, beside eight busy loops.
const busy = process.argv.includes('--busy');
prepare();
process.env.CHROMIUM = chromium();
process.env.NODE_ENV = 'test';

const { default: Mocha } = await import('mocha');
const wanted = process.argv.slice(2).filter((word) => !word.startsWith('--'));
const affected = process.argv.includes('--changed') ? await affectedFiles() : undefined;

async function affectedFiles() {
  const { affectedTests, changedFiles } = await import('./changed.mjs');
  const changed = changedFiles();
  const found = affectedTests(changed).map((file) => file.replace(/\.ts$/, '.js'));
  const count = (number, thing) => `${number} ${thing}${number === 1 ? '' : 's'}`;
  say(`${count(changed.length, 'changed file')} can affect ${count(found.length, 'test file')}`);
  return new Set(found);
}
const folder = join(root, 'tests/dist');
const files = readdirSync(folder, { recursive: true })
  .map(String)
  .filter((file) => file.endsWith('.test.js') && (affected?.has(file) ?? true))
  .filter((file) => wanted.length === 0 || wanted.some((part) => file.includes(part)))
  .sort();

if (wanted.length > 0 && files.length === 0) {
  process.stderr.write(`No test file has ${wanted.map((word) => `"${word}"`).join(' or ')} in its name.\n`);
  process.stdout.write('0 passed, 0 failed\n');
  process.exit(1);
}
if (affected && files.length === 0) {
  process.stdout.write('0 passed, 0 failed\n');
  process.exit(0);
}

/** Tests of how fast or how large something is run alone, after the others: side by side they would measure one another. */
const ALONE = ['busy', 'attacks', 'limits', 'full-disk', 'durability', 'retention', 'protocol', 'worker'];
const isAlone = (file) => ALONE.some((name) => file.endsWith(`/${name}.test.js`));
/** Files that take long begin first, so that nobody waits for one at the end. */
const LONG_FIRST = ['service/kill', 'console/', 'cli/'];
const rank = (file) => LONG_FIRST.length - LONG_FIRST.findIndex((part) => file.startsWith(part));
const order = (file) => (LONG_FIRST.some((part) => file.startsWith(part)) ? rank(file) : 0);

const options = {
  timeout: busy ? 1_200_000 : 120_000,
  slow: 1500,
  reporter: 'spec',
  forbidOnly: process.env.CI === 'true',
};
const totals = { passes: 0, failures: 0 };
/** Told once more at the end: of a long output the middle may be cut. */
const failed = [];

/** How long each file took, in milliseconds. */
const spent = new Map();

/** Runs files, so many at the same time. */
async function run(files, jobs) {
  if (files.length === 0) return;
  const mocha = new Mocha({ ...options, ...(jobs > 1 && { parallel: true, jobs }) });
  for (const file of files) mocha.addFile(join(folder, file));
  if (jobs === 1) await mocha.loadFilesAsync();
  const runner = mocha.run();
  runner.on('fail', (test, error) =>
    failed.push(`${test.fullTitle()}\n    ${String(error?.stack ?? error).slice(0, 1500)}`),
  );
  for (const event of ['test end', 'hook end'])
    runner.on(event, ({ file, duration = 0 }) => spent.set(file, (spent.get(file) ?? 0) + duration));
  await new Promise((done) => runner.once('end', done));
  totals.passes += runner.stats.passes;
  totals.failures += runner.stats.failures;
}

/** What is also run beside busy loops: the engine, expressions, endpoints and agents. */
const BUSY = [
  'core/engine',
  'core/expressions',
  'core/agent',
  'core/governed-agent',
  'service/endpoints',
  'service/desk',
];
const BUSY_LOOPS = 8;
async function besideBusyLoops(work) {
  const code = 'const end = Date.now() + 1_800_000; while (Date.now() < end);';
  const loops = Array.from({ length: BUSY_LOOPS }, () => spawn(process.execPath, ['-e', code], { stdio: 'ignore' }));
  try {
    await work();
  } finally {
    for (const one of loops) one.kill('SIGKILL');
  }
}

const together = files.filter((file) => !isAlone(file)).sort((a, b) => order(b) - order(a));
const begun = Date.now();
if (!busy) {
  // Tests wait much of the time: two for each processor keep it busy.
  await run(together, together.length > 1 ? Math.min(4, availableParallelism() * 2) : 1);
  await run(files.filter(isAlone), 1);
}
// The files have been in other processes so far, so that they are loaded here for the first time.
if (busy || (wanted.length === 0 && !affected && together.length > 1)) {
  process.stdout.write(`\nbeside ${BUSY_LOOPS} busy loops\n`);
  const chosen = BUSY.map((name) => `${name}.test.js`).filter((file) => files.includes(file));
  await besideBusyLoops(() => run(chosen, 1));
}
if (spent.size > 10) {
  process.stdout.write('\nthe files that took longest\n');
  const seconds = (duration) => `${Math.round(duration / 1000)} s`.padStart(7);
  for (const [file, duration] of [...spent].sort(([, a], [, b]) => b - a).slice(0, 25))
    process.stdout.write(`${seconds(duration)}  ${relative(folder, file)}\n`);
}
const { passes, failures } = totals;
for (const one of failed) process.stdout.write(`\nfailed: ${one}\n`);
process.stdout.write(`\n${Math.round((Date.now() - begun) / 1000)} s\n${passes} passed, ${failures} failed\n`);
process.exit(failures > 0 || passes === 0 ? 1 : 0);
