/* Prints what survived, and writes the score into docs/mutation.md. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Survivors that do not matter, each with the reason. A text of the code stands for all mutants of that line. */
const acceptedIn = (root) => {
  const path = join(root, 'scripts/mutants/accepted.json');
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : [];
};

const folderOf = (file) => file.replace('/dist/', '/').split('/').slice(1, 3).join('/').replace(/\.js$/, '');
const percent = (part, whole) => (whole === 0 ? '–' : `${Math.round((1000 * part) / whole) / 10}%`);

/** @param results mutants with their state: `noticed`, `survived` or `unreached` */
export function writeReport({ scope, results, every, write, root }) {
  const accepted = acceptedIn(root);
  const isAccepted = ({ file, code, what }) =>
    accepted.some((one) => file.endsWith(one.file) && code.includes(one.code) && (!one.what || one.what === what));
  const counted = results.filter((one) => one.state === 'noticed' || !isAccepted(one));
  const byFolder = new Map();
  for (const one of counted) {
    const row = byFolder.get(folderOf(one.file)) ?? { noticed: 0, survived: 0, unreached: 0 };
    row[one.state]++;
    byFolder.set(folderOf(one.file), row);
  }
  for (const one of counted.filter(({ state }) => state !== 'noticed'))
    process.stdout.write(`${one.state} ${one.file}:${one.line}:${one.column} ${one.what}: ${one.code}\n`);
  const sum = (state) => counted.filter((one) => one.state === state).length;
  const rows = [...byFolder].map(
    ([folder, { noticed, survived, unreached }]) =>
      `| ${folder} | ${noticed + survived + unreached} | ${noticed} | ${survived} | ${unreached} | ${percent(noticed, noticed + survived + unreached)} |`,
  );
  const table = [
    '| Folder | Mutants | Noticed | Survived | Not reached | Score |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows,
    `| total | ${counted.length} | ${sum('noticed')} | ${sum('survived')} | ${sum('unreached')} | ${percent(sum('noticed'), counted.length)} |`,
  ].join('\n');
  process.stdout.write(`\n${table}\n`);
  if (!write) return;
  const path = join(root, 'docs/mutation.md');
  const text = readFileSync(path, 'utf8');
  const section = `<!-- ${scope} -->\n\n${every > 1 ? `One mutant in ${every}.\n\n` : ''}${table}\n\n<!-- /${scope} -->`;
  writeFileSync(path, text.replace(new RegExp(`<!-- ${scope} -->[\\s\\S]*?<!-- /${scope} -->`), section));
}
