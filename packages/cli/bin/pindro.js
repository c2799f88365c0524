#!/usr/bin/env node
import { existsSync } from 'node:fs';

/** Options before the command that have a value. */
const VALUED = ['--url', '--key', '--settings'];
const words = process.argv.slice(2);
const command = words.find((word, index) => !word.startsWith('-') && !VALUED.includes(words[index - 1]));
// These run a service in this process, which loads the files that the bundle has in another form.
const isService = command === 'serve' || command === 'demo';
const main = [isService ? '../dist/service-main.js' : '../bundle/main.js', '../dist/main.js']
  .map((path) => new URL(path, import.meta.url))
  .find((file) => existsSync(file));
if (!main) {
  process.stderr.write(
    'Pindro is not built yet. Run "npm run build" in its folder first, or "npm run demo", which builds what is missing.\n',
  );
  process.exit(1);
}
await import(main.href);
