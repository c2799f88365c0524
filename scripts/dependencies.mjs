/* Fails if a package imports a module that its package.json does not declare, or declares one that it never imports. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { root } from './prepare.mjs';

/** Dependencies without an import: types, tools of a script, and plug-ins that a configuration names. */
const TOOLS = {
  '.': ['@biomejs/biome', 'better-sqlite3', 'dependency-cruiser', 'prettier', 'prettier-plugin-svelte', 'typescript'],
  // What extra-typings types, and loads itself.
  'packages/cli': ['commander'],
  'packages/console': ['svelte-check', 'tailwindcss'],
  'packages/service': ['better-sqlite3'],
  tests: ['mocha'],
};
const SOURCES = { '.': ['scripts', 'bench'] };
const FILE = /\.(ts|mjs|js|svelte|css|json)$/;
const nameOf = (specifier) => specifier.match(/^(@[^/]+\/[^/]+|[^/]+)/)[1];

function filesIn(folder) {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory())
      return ['node_modules', 'dist', 'bundle', 'fixtures'].includes(entry.name) ? [] : filesIn(path);
    return FILE.test(entry.name) && !/package(-lock)?\.json$/.test(entry.name) ? [path] : [];
  });
}

/** Module specifiers that a file imports, without relative ones. */
function importsOf(file, text) {
  if (file.endsWith('.json')) return [];
  if (file.endsWith('.css')) return [...text.matchAll(/@import\s+['"]([^'"./][^'"]*)['"]/g)].map(([, name]) => name);
  const code = file.endsWith('.svelte')
    ? [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].map(([, one]) => one)
    : [text];
  return code
    .flatMap((one) => ts.preProcessFile(one, true, true).importedFiles.map(({ fileName }) => fileName))
    .filter((name) => !name.startsWith('.') && !name.startsWith('/'));
}

const faults = [];
/** Scripts and benches at the root use what any workspace declares: npm installs it there. */
const anywhere = new Set();
const packages = [...readdirSync(join(root, 'packages')).map((name) => `packages/${name}`), 'tests', '.'];
for (const at of packages) {
  const manifest = JSON.parse(readFileSync(join(root, at, 'package.json'), 'utf8'));
  const declared = { ...manifest.dependencies, ...manifest.devDependencies };
  for (const name of Object.keys(declared)) anywhere.add(name);
  const used = new Set();
  const builtIn = (name) => name.startsWith('node:') || name.startsWith('virtual:') || name === manifest.name;
  for (const file of (SOURCES[at] ?? ['.']).flatMap((folder) => filesIn(join(root, at, folder)))) {
    const text = readFileSync(file, 'utf8');
    for (const specifier of importsOf(file, text)) if (!builtIn(specifier)) used.add(nameOf(specifier));
    for (const name of Object.keys(declared)) if (text.includes(`'${name}/`)) used.add(name);
  }
  const scripts = JSON.stringify(manifest.scripts ?? {});
  for (const name of Object.keys(declared))
    if (!used.has(name) && !name.startsWith('@types/') && !(TOOLS[at] ?? []).includes(name) && !scripts.includes(name))
      faults.push(`${at}/package.json declares ${name}, which nothing imports`);
  for (const name of used)
    if (!Object.hasOwn(declared, name) && !(at === '.' && anywhere.has(name)))
      faults.push(`${at} imports ${name}, which its package.json does not declare`);
}
for (const fault of faults) console.error(fault);
process.exit(faults.length > 0 ? 1 : 0);
