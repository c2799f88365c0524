/*
 * Measures how many small mistakes the tests notice: `npm run mutants -- core` or `-- security`, a part of the scope with
 * `-- core trace/secrets`, a sample with `--every 10`. Every mutant is tried with the tests that reach it; those that
 * survive are printed, and the score is written to docs/mutation.md with `--write`.
 */
import { fork } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { mutate } from './mutate.mjs';
import { writeReport } from './report.mjs';
import { SCOPES } from './scopes.mjs';

const root = fileURLToPath(new URL('../..', import.meta.url));
const words = process.argv.slice(2);
const option = (name, otherwise) => {
  const at = words.indexOf(name);
  return at < 0 ? otherwise : Number(words.splice(at, 2)[1]);
};
const write = words.includes('--write');
const every = option('--every', 1);
const jobs = option('--jobs', availableParallelism());
const [scopeName = 'core', ...parts] = words.filter((word) => !word.startsWith('--'));
const scope = SCOPES[scopeName];
if (!scope) {
  process.stderr.write(`The scopes are ${Object.keys(SCOPES).join(' and ')}, not "${scopeName}".\n`);
  process.exit(2);
}

/** A mutant that takes this much CPU time, in seconds, never ends. */
const ENDLESS = 10;
/** Tests beyond these many seconds are not tried on one mutant. */
const PATIENCE = 4;
/** Test files tried on a mutant that is active while modules are loaded. */
const STATIC_FILES = 3;

const say = (text) => process.stderr.write(`${text}\n`);
const listed = (folder) =>
  existsSync(folder) ? readdirSync(folder, { recursive: true }).map((file) => join(folder, String(file))) : [];
const code = listed(join(root, 'packages'))
  .filter((file) => file.endsWith('.js') && !file.includes('node_modules'))
  .filter((file) => scope.code.some((part) => relative(root, file).startsWith(part)))
  .sort();
const tests = listed(join(root, 'tests/dist'))
  .filter((file) => file.endsWith('.test.js'))
  .filter((file) => scope.tests.some((part) => relative(join(root, 'tests/dist'), file).startsWith(part)))
  .sort();

const firsts = {};
const mutants = [];
for (const file of code) {
  firsts[file] = mutants.length;
  for (const one of mutate(readFileSync(file, 'utf8'), mutants.length).mutants)
    mutants.push({ ...one, file: relative(root, file) });
}

/** A process that tries mutants. */
class Worker {
  #child = null;

  constructor(env = {}) {
    this.env = env;
  }

  async begin(files) {
    this.#child = fork(fileURLToPath(new URL('worker.mjs', import.meta.url)), {
      env: { ...process.env, NODE_ENV: 'test', ...this.env },
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
      serialization: 'advanced',
    });
    return this.ask({ firsts, tests: files });
  }

  /** @returns the answer, or `{ ended: true }` where the process ended or had to be ended */
  ask(message) {
    const child = this.#child;
    if (!child.connected) return Promise.resolve({ spoilt: true });
    return new Promise((resolve) => {
      const done = (answer) => {
        clearInterval(watch);
        child.removeAllListeners();
        resolve(answer);
      };
      const start = cpuOf(child.pid);
      let idle = 0;
      const watch = setInterval(() => {
        idle++;
        if (cpuOf(child.pid) - start > ENDLESS * (message.cover ? 20 : 1) || (!message.cover && idle > ENDLESS * 5)) {
          child.kill('SIGKILL');
          done({ ended: true });
        }
      }, 1000);
      child.once('exit', () => done({ ended: true }));
      child.once('message', ({ answer, error }) => done(error ? { error, ended: true } : answer));
      child.send(message, (failure) => failure && done({ ended: true }));
    });
  }

  end() {
    this.#child?.removeAllListeners();
    this.#child?.kill('SIGKILL');
  }
}

/** CPU time of a process in seconds (proc(5)), 0 where it is gone. */
function cpuOf(pid) {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ').at(-1).split(' ');
    return (Number(fields[11]) + Number(fields[12])) / 100;
  } catch {
    return 0;
  }
}

say(`${mutants.length} mutants in ${code.length} files, ${tests.length} test files`);
const first = new Worker();
const { loaded, error } = await first.begin(tests);
if (error) throw new Error(error);
const covered = await first.ask({ cover: true });
first.end();
if (covered.ended) throw new Error(`The tests did not run to their end: ${covered.error ?? ''}`);
if (covered.failures.length > 0) say(`failing without any mutant:\n  ${covered.failures.join('\n  ')}`);

const whileLoading = new Set(loaded);
const reaching = new Map();
for (const test of covered.tests) for (const id of test.reaches) reaching.set(id, [...(reaching.get(id) ?? []), test]);
const wide = new Map(covered.tests.map((test) => [test, test.reaches.length]));
const failing = new Set(covered.failures.map((line) => line.split(': ')[0]));

const wanted = mutants
  .filter(({ file }) => parts.length === 0 || parts.some((part) => file.includes(part)))
  .filter((_, index) => index % every === 0);

/** The tests that reach a mutant, the most specific first, as far as patience lasts. */
function chosenFor(id) {
  const all = (reaching.get(id) ?? []).filter(({ title }) => !failing.has(title));
  all.sort((a, b) => wide.get(a) * (a.took + 5) - wide.get(b) * (b.took + 5));
  let time = 0;
  return all.filter(({ took }) => (time += took) <= PATIENCE * 1000 || time === took).map(({ title }) => title);
}

/** Test files that reach the file of a mutant most. */
function filesFor({ file }) {
  const ids = new Set(mutants.filter((one) => one.file === file).map(({ id }) => id));
  const counts = new Map();
  for (const { file: testFile, reaches } of covered.tests) {
    const count = reaches.filter((id) => ids.has(id)).length;
    if (count > 0) counts.set(testFile, (counts.get(testFile) ?? 0) + count);
  }
  // Values that are read and nothing else are reached by no mutant: the widest test files then know them best.
  if (counts.size === 0)
    for (const one of covered.tests) counts.set(one.file, (counts.get(one.file) ?? 0) + one.reaches.length);
  return [...counts]
    .sort(([, a], [, b]) => b - a)
    .slice(0, STATIC_FILES)
    .map(([name]) => name);
}

async function tryStatic(mutant) {
  const files = filesFor(mutant);
  const worker = new Worker({ MUTANT: String(mutant.id) });
  const begun = await worker.begin(files);
  const outcome = begun.ended ? begun : await worker.ask({ mutant: mutant.id, chosen: null });
  worker.end();
  return outcome.ended || outcome.failed ? 'noticed' : 'survived';
}

const queue = [...wanted];
const results = [];
const begunAt = Date.now();
// Interrupted, it reports what it has tried so far.
process.once('SIGINT', () => {
  say(`interrupted: ${queue.length} mutants are left out`);
  queue.length = 0;
});
async function work() {
  let worker = null;
  for (let mutant = queue.shift(); mutant; mutant = queue.shift()) {
    let state;
    const chosen = chosenFor(mutant.id);
    if (whileLoading.has(mutant.id)) state = await tryStatic(mutant);
    else if (chosen.length === 0) state = 'unreached';
    else
      for (let attempt = 0; state === undefined; attempt++) {
        if (!worker) {
          worker = new Worker();
          await worker.begin(tests);
        }
        const outcome = await worker.ask({ mutant: mutant.id, chosen });
        if (outcome.ended || outcome.spoilt) {
          worker.end();
          worker = null;
        }
        if (outcome.spoilt && attempt === 0) continue;
        state = outcome.ended || outcome.failed ? 'noticed' : 'survived';
      }
    results.push({ ...mutant, state });
    if (results.length % 100 === 0) {
      const noticed = results.filter((one) => one.state === 'noticed').length;
      const rate = results.length / ((Date.now() - begunAt) / 1000);
      say(
        `${results.length} of ${wanted.length}, ${Math.round((100 * noticed) / results.length)}% noticed, ${rate.toFixed(1)}/s`,
      );
    }
  }
  worker?.end();
}
await Promise.all(Array.from({ length: jobs }, work));
results.sort((a, b) => a.id - b.id);
writeReport({ scope: scopeName, results, every, write, root });
process.exit(0);
