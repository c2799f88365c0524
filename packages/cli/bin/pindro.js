#!/usr/bin/env node
import { existsSync } from 'node:fs';

// These run a service in this process, which loads the same files again.
const isService = process.argv.slice(2).some((word) => word === 'serve' || word === 'demo');
const main = [isService ? '../dist/main.js' : '../bundle/main.js', '../dist/main.js']
  .map((path) => new URL(path, import.meta.url))
  .find((file) => existsSync(file));
if (!main) {
  process.stderr.write(
    'Pindro is not built yet. Run "npm run build" in its folder first, or "npm run demo", which builds what is missing.\n',
  );
  process.exit(1);
}
await import(main.href);
