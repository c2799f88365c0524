import JSON5 from 'json5';
import { findUnsafe, isObject, type JsonObject } from '../json/json.js';

/** Parses an object from pasted JSON, or returns null. @param repair receives each correction */
export function readLoosely(text: string, repair: (sentence: string) => void): JsonObject | null {
  const strict = parsed(() => JSON.parse(text));
  if (strict) return strict;
  const straight = text
    .replaceAll(/[“”„‟″]/g, '"')
    .replaceAll(/[‘’‚‛′]/g, "'")
    .replaceAll(/[\u00a0\u2000-\u200b\ufeff]/g, ' ');
  for (const [change, words] of LOOSENINGS) {
    const found = parsed(() => JSON5.parse(change(straight)));
    if (!found) continue;
    if (straight !== text && /[“”„‟″‘’‚‛′]/.test(text)) repair('Curly quotes were replaced by straight ones.');
    for (const sentence of [...said(straight), ...words]) repair(sentence);
    return found;
  }
  return null;
}

/** What is tried in turn, until something can be read. */
const LOOSENINGS: [change: (text: string) => string, words: string[]][] = [
  [(text) => text, []],
  [(text) => `{${text}}`, ['The outer braces were missing and have been added.']],
  [(text) => `{${text.replace(/\}\s*$/, '')}}`, ['The outer braces did not match and have been corrected.']],
  [(text) => `${text}}`, ['A missing closing brace was added.']],
  [(text) => `${text}}}`, ['Missing closing braces were added.']],
  [(text) => text.replace(/\}\s*$/, ''), ['An extra closing brace was removed.']],
  [withCommas, ['A missing comma between two lines was added.']],
  [(text) => `{${withCommas(text)}}`, ['Missing commas and outer braces were added.']],
];

/** A line that ends a value, before one that begins a name, has a comma. */
function withCommas(text: string): string {
  return text.replaceAll(/(["'\d}\]el])([ \t]*(?:\/\/[^\n]*)?\n\s*)(?=["'][^"'\n]*["']\s*:)/g, '$1,$2');
}

/** What of the text only a lenient reader takes. */
function said(text: string): string[] {
  const outside = text.replaceAll(/"(?:[^"\\\n]|\\.)*"/g, '""');
  return [
    ...(/(?:^|[^:])\/\/|\/\*/.test(outside) ? ['Comments were removed.'] : []),
    ...(/,\s*[}\]]/.test(outside) ? ['A trailing comma was removed.'] : []),
    ...(/'/.test(outside) ? ['Single quotes were replaced by double quotes.'] : []),
  ];
}

function parsed(read: () => unknown): JsonObject | null {
  try {
    const value = read();
    return isObject(value) && !findUnsafe(value) ? value : null;
  } catch {
    return null;
  }
}
