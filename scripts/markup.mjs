/* Fails where markup of the console is hard to read: a long line, or a component that is more than one thing. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './prepare.mjs';

const LONGEST_LINE = 120;
/** Lines of markup, without script and style. */
const MOST_MARKUP = 130;

const folder = join(root, 'packages/console/src');
const faults = [];
for (const file of readdirSync(folder, { recursive: true })
  .map(String)
  .filter((name) => name.endsWith('.svelte'))) {
  const text = readFileSync(join(folder, file), 'utf8');
  for (const [index, line] of text.split('\n').entries())
    if (line.length > LONGEST_LINE) faults.push(`${file}:${index + 1} has ${line.length} characters`);
  const markup = text.replaceAll(/<(script|style)[\s\S]*?<\/\1>/g, '').trim();
  const lines = markup.split('\n').length;
  if (lines > MOST_MARKUP) faults.push(`${file} has ${lines} lines of markup: split it where it means two things`);
}
for (const fault of faults) console.error(fault);
process.exit(faults.length > 0 ? 1 : 0);
