/*
 * Lists every string that a person may read: markup and scripts of the console, messages, findings, descriptions,
 * and the help and output of the command line. One line per string: FILE:START:END, then the text as a JSON string.
 * Used by `scripts/language.mjs`, and printed by `node scripts/strings.mjs [PATH]` to review the language as a whole.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { parse as parseMarkup } from 'svelte/compiler';
import ts from 'typescript';
import { root } from './prepare.mjs';

const PACKAGES = ['core', 'contract', 'service', 'cli', 'console', 'standins'];
/** Properties and attributes whose value is read by people even when it is one word. */
const LABELS = new Set(
  'label title placeholder description summary hint heading alt caption aria-label text note empty word words name'.split(
    ' ',
  ),
);
/** Attributes and properties that hold code. */
const CODE = new Set(
  'class className style id href src type role for d path viewBox points transform fill stroke'.split(' '),
);
const SQL =
  /^\s*(SELECT|INSERT|UPDATE|DELETE|CREATE|ALTER|DROP|PRAGMA|BEGIN|COMMIT|WITH|VACUUM|ATTACH|ANALYZE|CASE|EXISTS)\b/;

/** Files of the packages whose strings count, relative to the root. */
export function sourceFiles() {
  const files = [];
  for (const name of PACKAGES)
    for (const file of readdirSync(join(root, 'packages', name, 'src'), { recursive: true }).map(String))
      if (/\.(ts|svelte)$/.test(file) && !file.endsWith('.d.ts')) files.push(join('packages', name, 'src', file));
  return files.sort();
}

/** Whether a literal reads as prose: it has two words, or starts like a sentence. */
function isProse(text) {
  const plain = text.replaceAll(/\$\{[^}]*\}/g, ' ');
  if (SQL.test(plain)) return false;
  return /[A-Za-z]{2,}[^A-Za-z]*\s+[^A-Za-z]*[A-Za-z]+/.test(plain) || /^[A-Z][a-z]+[.:!?]?$/.test(plain.trim());
}

function scriptStrings(source, offset, found, file) {
  const tree = ts.createSourceFile(file, source, ts.ScriptTarget.Latest, true, ts.ScriptKind.TS);
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isTypeNode(node)) return;
    if (ts.isTaggedTemplateExpression(node) && /sql/i.test(node.tag.getText(tree))) return;
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node) || ts.isTemplateExpression(node)) {
      const text = node.getText(tree).slice(1, -1);
      const parent = node.parent;
      const key =
        ts.isPropertyAssignment(parent) && parent.name === node
          ? ':key'
          : ts.isPropertyAssignment(parent)
            ? parent.name.getText(tree)
            : undefined;
      if (key !== ':key' && !CODE.has(key) && (isProse(text) || (LABELS.has(key) && /[a-z]/i.test(text))))
        found.push({ start: offset + node.getStart(tree) + 1, end: offset + node.getEnd() - 1, text });
    }
    ts.forEachChild(node, visit);
  };
  visit(tree);
}

function markupStrings(source, found) {
  const tree = parseMarkup(source, { modern: true });
  const walk = (node, attribute) => {
    if (node === null || typeof node !== 'object') return;
    if (Array.isArray(node)) {
      for (const child of node) walk(child, attribute);
      return;
    }
    if (node.type === 'Attribute') {
      if (CODE.has(node.name)) return;
      return walk(node.value, node.name);
    }
    if (node.type === 'Text') {
      const text = source.slice(node.start, node.end);
      if (/[A-Za-z]{2,}/.test(text) && (attribute === undefined || LABELS.has(attribute) || isProse(text)))
        found.push({ start: node.start, end: node.end, text });
      return;
    }
    if (node.type === 'Literal' && typeof node.value === 'string') {
      if (isProse(node.value) || (LABELS.has(attribute) && /[a-z]/i.test(node.value)))
        found.push({ start: node.start + 1, end: node.end - 1, text: source.slice(node.start + 1, node.end - 1) });
      return;
    }
    if (node.type === 'TemplateLiteral') {
      const text = source.slice(node.start + 1, node.end - 1);
      if (isProse(text)) found.push({ start: node.start + 1, end: node.end - 1, text });
    }
    for (const [key, value] of Object.entries(node))
      if (key !== 'parent') walk(value, key === 'value' ? attribute : undefined);
  };
  walk(tree.fragment, undefined);
  for (const part of [tree.instance, tree.module])
    if (part) scriptStrings(source.slice(part.content.start, part.content.end), part.content.start, found, 'part.ts');
}

/** The strings of one file, each with its position in characters. */
export function stringsOf(file) {
  const source = readFileSync(join(root, file), 'utf8');
  const found = [];
  if (file.endsWith('.svelte')) markupStrings(source, found);
  else scriptStrings(source, 0, found, file);
  const seen = new Set();
  return found
    .filter(({ start }) => !seen.has(start) && seen.add(start))
    .sort((one, other) => one.start - other.start)
    .map((string) => ({ ...string, line: source.slice(0, string.start).split('\n').length }));
}

if (process.argv[1] === new URL(import.meta.url).pathname) {
  const only = process.argv[2] ?? '';
  for (const file of sourceFiles().filter((name) => name.startsWith(only)))
    for (const { line, text } of stringsOf(file))
      console.log(`${relative('packages', file)}:${line}\t${JSON.stringify(text.replaceAll(/\s+/g, ' '))}`);
}
