/*
 * Fails if a user-visible string, a page of the docs, or the name of a file has a term of the left column of the
 * glossary (`scripts/glossary.json`). Phrases match as whole words, ignoring case. What stays is listed under
 * "allowed" with a reason, or ends with the comment "language: allow" on its line.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { root } from './prepare.mjs';
import { sourceFiles, stringsOf } from './strings.mjs';

const { strings, identifiers, allowed } = JSON.parse(readFileSync(join(root, 'scripts/glossary.json'), 'utf8'));
const escaped = (text) => text.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&').replaceAll(' ', '\\s+');
const banned = new RegExp(
  `(?<![\\w-])(?:${Object.keys(strings)
    .sort((a, b) => b.length - a.length)
    .map(escaped)
    .join('|')})(?![\\w-])`,
  'gi',
);
const ignored = new RegExp(Object.keys(allowed).map(escaped).join('|'), 'gi');
/** Names and values inside of a string are code, not language. */
const prose = (text) =>
  text
    .replaceAll(/\$\{[^}]*\}/g, ' ')
    .replaceAll(/`[^`]*`/g, ' ')
    .replaceAll(ignored, ' ');

const faults = [];
function check(where, text) {
  for (const [found] of prose(text).matchAll(banned)) {
    const term = found.toLowerCase().replaceAll(/\s+/g, ' ');
    faults.push(`${where} has "${term}"; write ${strings[term]}: ${text.trim().replaceAll(/\s+/g, ' ').slice(0, 100)}`);
  }
}

/** Texts that imitate other people's software, and lists of words that are matched against foreign text. */
const FOREIGN =
  /^packages\/(standins\/|cli\/src\/demo\/|core\/src\/(watch|tools\/(orders|reaches)|agent\/claims|advice\/review\/words)|cli\/src\/renamed|contract\/src\/former)/;
for (const file of sourceFiles().filter((name) => !FOREIGN.test(name))) {
  const lines = readFileSync(join(root, file), 'utf8').split('\n');
  for (const { line, text } of stringsOf(file))
    if (!lines[line - 1].includes('language: allow')) check(`${file}:${line}`, text);
  const words = basename(file)
    .replace(/\..*$/, '')
    .split(/[-_]|(?=[A-Z])/)
    .map((word) => word.toLowerCase());
  for (const word of words) if (identifiers.includes(word)) faults.push(`${file} is named with "${word}"`);
}
for (const page of [
  'README.md',
  'CONTRIBUTING.md',
  ...readdirSync(join(root, 'docs'))
    .filter((name) => name.endsWith('.md'))
    .map((name) => `docs/${name}`),
]) {
  const text = readFileSync(join(root, page), 'utf8').replaceAll(/```[\s\S]*?```/g, (code) =>
    code.replaceAll(/[^\n]/g, ' '),
  );
  for (const [index, line] of text.split('\n').entries()) check(`${page}:${index + 1}`, line);
}
for (const fault of faults) console.error(fault);
if (faults.length > 0) console.error(`${faults.length} terms of the left column of scripts/glossary.json`);
process.exit(faults.length > 0 ? 1 : 0);
