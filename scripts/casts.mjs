/*
 * Casts that switch the type checker off. `as never` is not allowed in packages; `as unknown as` and `!` may not become
 * more than `scripts/casts.json` says. Where there are fewer, write the new number there: `npm run lint:casts -- --write`.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { root } from './prepare.mjs';

const LIMITS = join(root, 'scripts/casts.json');
const limits = JSON.parse(readFileSync(LIMITS, 'utf8'));

function filesIn(folder) {
  return readdirSync(folder, { recursive: true })
    .map(String)
    .filter((file) => /\.(ts|svelte)$/.test(file) && !file.endsWith('.d.ts'))
    .map((file) => join(folder, file));
}

/** The code of a file; of a component its scripts, and its markup for what only text can tell. */
function codeOf(file) {
  const text = readFileSync(file, 'utf8');
  if (!file.endsWith('.svelte')) return text;
  return [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].map(([, one]) => one).join('\n');
}

const isCastTo = (node, kind) => ts.isAsExpression(node) && node.type.kind === kind;
const counted = {};
const never = [];
for (const name of readdirSync(join(root, 'packages'))) {
  const count = { 'as unknown as': 0, '!': 0 };
  for (const file of ['src', 'mounted'].flatMap((folder) => {
    try {
      return filesIn(join(root, 'packages', name, folder));
    } catch {
      return [];
    }
  })) {
    const source = ts.createSourceFile(file, codeOf(file), ts.ScriptTarget.Latest, true);
    const visit = (node) => {
      if (isCastTo(node, ts.SyntaxKind.NeverKeyword)) never.push(`${file.slice(root.length)}: ${node.getText()}`);
      if (ts.isAsExpression(node) && isCastTo(node.expression, ts.SyntaxKind.UnknownKeyword)) count['as unknown as']++;
      if (ts.isNonNullExpression(node)) count['!']++;
      ts.forEachChild(node, visit);
    };
    visit(source);
  }
  counted[name] = count;
}

if (process.argv.includes('--write')) writeFileSync(LIMITS, `${JSON.stringify(counted, null, 2)}\n`);
else {
  const faults = never.map((one) => `as never is not allowed: ${one}`);
  for (const [name, count] of Object.entries(counted))
    for (const [cast, times] of Object.entries(count)) {
      const limit = limits[name]?.[cast] ?? 0;
      if (times > limit) faults.push(`${name} has ${times} times ${cast}, at most ${limit} are allowed`);
    }
  for (const fault of faults) process.stderr.write(`${fault}\n`);
  if (faults.length > 0) process.exit(1);
}
