/*
 * Which test files a change can affect: those whose imports lead to a changed file. An import of `@pindro/core` is
 * followed by name, through the index to the file that declares it, so that one rule does not reach every test of core.
 */
import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { parseSync } from 'rolldown/utils';
import { root } from './prepare.mjs';

const git = (...args) => spawnSync('git', args, { cwd: root, encoding: 'utf8' }).stdout.split('\n').filter(Boolean);

/** Files that differ from the last commit, or, when none do, those of the last commit. Relative to the checkout. */
export function changedFiles() {
  const now = [...git('diff', '--name-only', 'HEAD'), ...git('ls-files', '--others', '--exclude-standard')];
  return now.length > 0 ? now : git('diff', '--name-only', 'HEAD~1', 'HEAD');
}

const isFile = (path) => statSync(path, { throwIfNoEntry: false })?.isFile() === true;

const parsed = new Map();
/** What a file imports and what it passes on: `{ from, names }`, names undefined for all of it. */
function moduleOf(file) {
  if (parsed.has(file)) return parsed.get(file);
  const { module } = parseSync(file, readFileSync(file, 'utf8'), { lang: 'ts' });
  const imports = module.staticImports.map(({ moduleRequest, entries }) => {
    const names = entries.map(({ importName }) => importName.name);
    return { from: moduleRequest.value, names: names.length > 0 && names.every(Boolean) ? names : undefined };
  });
  const exported = module.staticExports.flatMap(({ entries }) => entries.filter(({ moduleRequest }) => moduleRequest));
  const passed = exported.map(({ moduleRequest, importName, exportName }) => ({
    from: moduleRequest.value,
    name: importName.name,
    as: exportName.name,
  }));
  const found = { imports, passed };
  parsed.set(file, found);
  return found;
}

/** The source file an import means, or undefined for a package of somebody else. */
function resolve(from, request) {
  if (request.startsWith('.')) return join(dirname(from), request).replace(/\.js$/, '.ts');
  const own = /^@pindro\/([a-z]+)(?:\/(.+))?$/.exec(request);
  if (!own) return undefined;
  const target = exportsOf(own[1])[own[2] ? `./${own[2]}` : '.']?.default;
  return target && join(root, 'packages', own[1], target.replace('dist/', 'src/').replace(/\.js$/, '.ts'));
}

/** Keeps what a function answered, by its arguments joined to a text. */
function once(work) {
  const answers = new Map();
  return (...given) => {
    const key = given.join(' ');
    if (!answers.has(key)) answers.set(key, work(...given));
    return answers.get(key);
  };
}
const exportsOf = once(
  (name) => JSON.parse(readFileSync(join(root, 'packages', name, 'package.json'), 'utf8')).exports,
);

/** The files that declare some names of a file which passes names on. */
function declaring(file, names) {
  const { passed } = moduleOf(file);
  if (!names || passed.length === 0) return [file];
  return names.flatMap((name) => {
    const named = passed.find(({ as, from }) => as === name && from);
    const candidates = named ? [named] : passed.filter(({ as }) => as === undefined || as === null);
    const files = candidates.map(({ from }) => resolve(file, from)).filter((one) => one && isFile(one));
    // Of several `export *` the one that has the name is meant.
    const having = files.length > 1 ? files.filter((one) => declares(one, name)) : files;
    return having.length > 0 ? having.flatMap((one) => declaring(one, [named?.name ?? name])) : [file];
  });
}
const declares = once(
  (file, name) =>
    new RegExp(`export [^;]*\\b${name.replace(/\W/g, '\\$&')}\\b`).test(readFileSync(file, 'utf8')) ||
    moduleOf(file).passed.some(({ from, as }) => !as && declaresBelow(file, from, name)),
);
const declaresBelow = (file, from, name) => {
  const next = resolve(file, from);
  return Boolean(next && isFile(next) && declares(next, name));
};

/** Tests that start the command line as a process lead to it although nothing is imported. */
const PROCESS = join(root, 'tests/support/process.ts');
const COMMAND_LINE = join(root, 'packages/cli/src/main.ts');

/** The files a file imports. */
const next = once((file) => {
  const { imports, passed } = moduleOf(file);
  const named = [...imports, ...passed.map(({ from }) => ({ from }))].flatMap(({ from, names }) => {
    const target = resolve(file, from);
    return target && isFile(target) ? declaring(target, from.startsWith('.') ? undefined : names) : [];
  });
  return file === PROCESS ? [...named, COMMAND_LINE] : named;
});

/** All files a file leads to, itself included. */
function reached(file) {
  const seen = new Set([file]);
  for (const one of seen) for (const target of next(one)) seen.add(target);
  return seen;
}

/**
 * The test files a change can affect, those that lead to the fewest files first: they are nearest to the change.
 * @param changed files relative to the checkout
 * @returns test files relative to `tests`, with the ending of their source
 */
export function affectedTests(changed) {
  const tests = readdirSync(join(root, 'tests'), { recursive: true })
    .map(String)
    .filter((file) => file.endsWith('.test.ts') && !/^(?:dist|node_modules)\//.test(file))
    .map((test) => ({ test, files: reached(join(root, 'tests', test)) }));
  const sources = new Set(changed.filter((file) => file.endsWith('.ts')).map((file) => join(root, file)));
  const markup = changed.some((file) => file.startsWith('packages/console/'));
  const others = changed
    .filter((file) => !file.endsWith('.ts') && !file.startsWith('packages/'))
    .map((f) => basename(f));
  // A source that nothing imports is started as a process of its own, by whom one cannot see here.
  const started = [...sources].some((file) => !tests.some(({ files }) => files.has(file)));
  return tests
    .filter(({ test, files }) => {
      if (markup && test.startsWith('console/')) return true;
      if (started && !/^(?:core|contract)\//.test(test)) return true;
      if ([...files].some((file) => sources.has(file))) return true;
      const text = readFileSync(join(root, 'tests', test), 'utf8');
      return others.some((name) => text.includes(name));
    })
    .sort((a, b) => a.files.size - b.files.size)
    .map(({ test }) => test);
}
