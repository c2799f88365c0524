/*
 * Runs tests against mutants, in a process of its own: a mutant may never end. Asked over IPC:
 * `{ files, tests }` first, then `{ cover: true }` or `{ mutant, chosen }`.
 */
import { register } from 'node:module';
import { pathToFileURL } from 'node:url';
import Mocha from 'mocha';

const state = { active: -1, hits: null };
globalThis.__m = (id) => {
  state.hits?.add(id);
  return id === state.active;
};
/** One that is to be active while modules are loaded. */
if (process.env.MUTANT) state.active = Number(process.env.MUTANT);

let mocha;
class Silent {}

async function begin({ firsts, tests }) {
  const loaded = new Set();
  state.hits = loaded;
  register('./hooks.mjs', import.meta.url, { data: firsts });
  mocha = new Mocha({ reporter: Silent, timeout: 5000 });
  mocha.cleanReferencesAfterRun(false);
  // Imported here: Mocha requires files, and what is required passes no hook.
  for (const file of tests) {
    mocha.suite.emit('pre-require', globalThis, file, mocha);
    await import(pathToFileURL(file).href);
  }
  bail(mocha.suite, true);
  state.hits = null;
  return { loaded: [...loaded] };
}

/** Runs the tests of these titles. @returns the one that failed, or null */
function run(titles, each = () => {}) {
  const wanted = titles && new Set(titles);
  mocha.options.grep = undefined;
  return new Promise((done) => {
    let failed = null;
    const runner = mocha.run(() => done(failed));
    if (wanted) {
      runner._grep = { test: (title) => wanted.has(title) };
      runner.total = runner.grepTotal(runner.suite);
    }
    runner.on('fail', (test, error) => {
      failed ??= { title: test.fullTitle(), why: String(error?.message ?? error).slice(0, 200) };
    });
    each(runner);
  });
}

/** Whether a run ends with its first failure: each suite has its own idea of that. */
function bail(suite, value) {
  suite.bail(value);
  for (const one of suite.suites) bail(one, value);
}

/** Which mutants each test reaches; what hooks reach counts for all tests of their suite. */
async function cover() {
  const reached = new Map();
  const around = new Map();
  bail(mocha.suite, false);
  const failures = [];
  await run(null, (runner) => {
    let hits = new Set();
    // Hooks of a test run after it was announced.
    let test = null;
    runner.on('hook', () => (state.hits = hits = new Set()));
    runner.on('hook end', (hook) => {
      const suite = hook.parent.fullTitle();
      around.set(suite, new Set([...(around.get(suite) ?? []), ...hits]));
      state.hits = test;
    });
    runner.on('test', () => (state.hits = test = new Set()));
    runner.on('test end', (one) => {
      const suites = [];
      for (let at = one.parent; at; at = at.parent) suites.push(at.fullTitle());
      reached.set(one.fullTitle(), { own: test ?? new Set(), suites, took: one.duration ?? 0, file: one.file });
      state.hits = test = null;
    });
    runner.on('fail', (test, error) => failures.push(`${test.fullTitle()}: ${error?.message}`));
  });
  state.hits = null;
  bail(mocha.suite, true);
  const tests = [...reached].map(([title, { own, suites, took, file }]) => ({
    ...{ title, took, file },
    reaches: [...new Set([...own, ...suites.flatMap((suite) => [...(around.get(suite) ?? [])])])],
  }));
  return { tests, failures };
}

async function tryOut({ mutant, chosen }) {
  state.active = mutant;
  const failed = await run(chosen);
  if (failed === null || process.env.MUTANT) return { failed };
  // A test that fails without the mutant as well tells of what earlier ones left behind.
  state.active = -1;
  const again = await run([failed.title]);
  return again === null ? { failed } : { spoilt: true };
}

process.on('message', async (message) => {
  try {
    const answer = message.tests ? await begin(message) : message.cover ? await cover() : await tryOut(message);
    process.send({ answer });
  } catch (error) {
    process.send({ error: String(error?.stack ?? error) });
  }
});
// What fails after its test has ended is nobody's: it must not end this process.
process.on('unhandledRejection', () => {});
process.on('uncaughtException', () => {});
