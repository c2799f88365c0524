/* Runs the tests. Names or parts of names of test files may follow: `npm test -- engine driver`. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from './chromium.mjs';
import { prepare, root } from './prepare.mjs';

prepare({ tests: true });
process.env.CHROMIUM = chromium();
process.env.NODE_ENV = 'test';

const { default: Mocha } = await import('mocha');
const wanted = process.argv.slice(2);
const folder = join(root, 'tests/dist');
const files = readdirSync(folder, { recursive: true })
  .map(String)
  .filter((file) => file.endsWith('.test.js') && (wanted.length === 0 || wanted.some((part) => file.includes(part))))
  .sort();

const mocha = new Mocha({ timeout: 120_000, slow: 1500, reporter: 'spec', forbidOnly: process.env.CI === 'true' });
for (const file of files) mocha.addFile(join(folder, file));
await mocha.loadFilesAsync();
const runner = mocha.run();
runner.on('end', () => {
  const { passes, failures } = runner.stats;
  process.stdout.write(`\n${passes} passed, ${failures} failed\n`);
  process.exit(failures > 0 || passes === 0 ? 1 : 0);
});
