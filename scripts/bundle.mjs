/*
 * Puts the command line into a few files, which Node reads in a third of the time of four hundred: every command is a
 * process of its own. `serve` and `demo` run a service, and load what it loads.
 */
import { readdirSync, rmSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';

const cli = fileURLToPath(new URL('../packages/cli/', import.meta.url));
const OUT = join(cli, 'bundle');
const SERVICE = /\/(?:serve\/serve|demo\/demo)\.js$/;

/** Keeps what modules find beside themselves where it is. */
const places = {
  name: 'places',
  transform: (code, id) =>
    code.includes('import.meta.url')
      ? code.replaceAll('import.meta.url', `new URL(${JSON.stringify(relative(OUT, id))}, import.meta.url).href`)
      : null,
  resolveId: (source, from) =>
    from && SERVICE.test(source)
      ? { id: `./${relative(OUT, join(dirname(from), source))}`, external: 'relative' }
      : null,
};

export async function bundleCommands() {
  const bundle = await rolldown({
    input: join(cli, 'dist/main.js'),
    platform: 'node',
    plugins: [places],
    treeshake: { moduleSideEffects: false },
    logLevel: 'silent',
  });
  const { output } = await bundle.write({ dir: OUT, format: 'esm', chunkFileNames: '[name]-[hash].js' });
  await bundle.close();
  const written = new Set(output.map(({ fileName }) => fileName));
  for (const file of readdirSync(OUT)) if (!written.has(file)) rmSync(join(OUT, file));
}
