#!/usr/bin/env node
import { existsSync } from 'node:fs';

const main = new URL('../dist/main.js', import.meta.url);
if (!existsSync(main)) {
  process.stderr.write(
    'Pindro is not built yet. Run "npm run build" in its folder first, or "npm run demo", which builds what is missing.\n',
  );
  process.exit(1);
}
await import(main.href);
