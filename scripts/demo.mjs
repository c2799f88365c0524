/* Starts the demo from a checkout as it is: what is missing is installed and built first. */
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { prepare, root } from './prepare.mjs';

prepare();

// Started by npm, it ends with npm, also when that was killed without a word.
const parent = process.ppid;
if (process.env.npm_lifecycle_event) {
  setInterval(() => process.ppid !== parent && process.kill(process.pid, 'SIGTERM'), 1000).unref();
}

const pindro = join(root, 'packages/cli/bin/pindro.js');
process.argv = [process.execPath, pindro, 'demo', ...process.argv.slice(2)];
await import(pathToFileURL(pindro).href);
