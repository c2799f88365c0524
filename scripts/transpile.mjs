/*
 * Writes the JavaScript beside the type declarations: every TypeScript file that is newer than what was made of it,
 * each on its own. Types are not looked at; `npm run check` does that. What has lost its source is removed, or a deleted
 * test would run for ever.
 */
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { transformSync } from 'rolldown/utils';
import { bundleCommands } from './bundle.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Where sources are and where their JavaScript goes. */
export const PROJECTS = [
  ...['core', 'contract', 'standins', 'service', 'cli'].map((name) => ({
    source: `packages/${name}/src`,
    made: `packages/${name}/dist`,
  })),
  { source: 'tests', made: 'tests/dist' },
];

const OPTIONS = { target: 'es2023', sourcemap: true, typescript: { onlyRemoveTypeImports: true } };

function listed(folder, ending) {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && entry.name.endsWith(ending))
    .map((entry) => join(entry.parentPath, entry.name));
}

/** The file a source is made into, and that file's source. */
const madeOf = ({ source, made }, file) => file.replace(source, made).replace(/\.ts$/, '.js');
const sourceOf = ({ source, made }, file) => file.replace(made, source).replace(/\.js$/, '.ts');
const inside = (file) => !file.includes('/dist/') && !file.includes('/node_modules/') && !file.endsWith('.d.ts');

function transpile(file, target) {
  const { code, map, errors } = transformSync(file, readFileSync(file, 'utf8'), OPTIONS);
  if (errors.length > 0) throw new Error(`${file}: ${errors.map(({ message }) => message).join('; ')}`);
  const name = basename(target);
  mkdirSync(dirname(target), { recursive: true });
  writeFileSync(`${target}.map`, JSON.stringify({ ...map, sources: [file] }));
  // Put in place whole: a half-written file that is newer than its source would never be made again.
  const making = `${target}.${process.pid}`;
  writeFileSync(making, `${code}//# sourceMappingURL=${name}.map\n`);
  renameSync(making, target);
}

/**
 * Transpiles what has changed.
 * @returns the sources that were transpiled, relative to the checkout
 */
export function transpileChanged(projects = PROJECTS) {
  const changed = [];
  for (const relative of projects) {
    const project = { source: join(root, relative.source), made: join(root, relative.made) };
    for (const file of listed(project.source, '.ts').filter(inside)) {
      const target = madeOf(project, file);
      if (existsSync(target) && statSync(target).mtimeMs > statSync(file).mtimeMs) continue;
      transpile(file, target);
      changed.push(file.slice(root.length));
    }
    for (const file of listed(project.made, '.js')) {
      if (existsSync(sourceOf(project, file))) continue;
      for (const ending of ['.js', '.js.map', '.d.ts', '.d.ts.map'])
        rmSync(file.replace(/\.js$/, ending), { force: true });
    }
  }
  return changed;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const changed = transpileChanged();
  if (changed.length > 0)
    process.stderr.write(`pindro: ${changed.length} source file${changed.length === 1 ? '' : 's'} transpiled\n`);
  const isOld = changed.some((file) => /^packages\/(?:cli|contract|core)\//.test(file));
  if (isOld || !existsSync(join(root, 'packages/cli/bundle/main.js'))) await bundleCommands();
}
