/*
 * Holds every regular expression of the code that reads what comes from outside against super-linear backtracking: an
 * input of a hundred kilobytes must not keep the event loop. Fails with the place and the reason of each.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { RegExpParser } from '@eslint-community/regexpp';
import { analyse } from 'scslre';
import ts from 'typescript';
import { root } from './prepare.mjs';

const FOLDERS = ['packages/core/src', 'packages/service/src', 'packages/contract/src'];
/** Expressions that are used on short texts only, by `file pattern`, each with the reason. */
const ALLOWED = JSON.parse(readFileSync(new URL('./regexes.json', import.meta.url), 'utf8'));

function* expressionsIn(file) {
  const tree = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true);
  const found = [];
  const walk = (node) => {
    if (ts.isRegularExpressionLiteral(node)) found.push(node);
    ts.forEachChild(node, walk);
  };
  walk(tree);
  for (const node of found)
    yield { text: node.text, line: tree.getLineAndCharacterOfPosition(node.getStart()).line + 1 };
}

const used = new Set();
let wrong = 0;
for (const folder of FOLDERS)
  for (const name of readdirSync(join(root, folder), { recursive: true }).map(String).sort()) {
    if (!name.endsWith('.ts')) continue;
    const file = join(root, folder, name);
    const shown = relative(root, file);
    for (const { text, line } of expressionsIn(file)) {
      const literal = new RegExpParser().parseLiteral(text);
      const { reports } = analyse(literal, { reportTypes: { Move: true, Self: true, Trade: true } });
      if (reports.length === 0) continue;
      const key = `${shown} ${text}`;
      if (Object.hasOwn(ALLOWED, key)) {
        used.add(key);
        continue;
      }
      wrong++;
      const { type, exponential, character } = reports[0];
      const how = exponential ? 'exponential' : 'quadratic';
      process.stdout.write(
        `${shown}:${line} ${text}\n  ${how} (${type}) for ${character.literal.source.slice(0, 60)}\n`,
      );
    }
  }
for (const key of Object.keys(ALLOWED))
  if (!used.has(key)) {
    wrong++;
    process.stdout.write(`scripts/regexes.json allows what is not there any more: ${key}\n`);
  }
process.exit(wrong > 0 ? 1 : 0);
