import JSON5 from 'json5';
import { findUnsafe, isObject, type JsonObject } from '../json.js';

/** An object out of JSON as people paste it. Null where it is none. @param repair is told what was mended */
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
    if (straight !== text && /[“”„‟″‘’‚‛′]/.test(text)) repair('Curly quotes were read as straight ones.');
    for (const sentence of [...said(straight), ...words]) repair(sentence);
    return found;
  }
  return null;
}

/** What is tried in turn, until something can be read. */
const LOOSENINGS: [change: (text: string) => string, words: string[]][] = [
  [(text) => text, []],
  [(text) => `{${text}}`, ['The braces around the whole were missing.']],
  [(text) => `{${text.replace(/\}\s*$/, '')}}`, ['The braces around the whole did not match.']],
  [(text) => `${text}}`, ['A brace at the end was missing.']],
  [(text) => `${text}}}`, ['Braces at the end were missing.']],
  [(text) => text.replace(/\}\s*$/, ''), ['There was a brace too many at the end.']],
  [withCommas, ['A comma between two lines was missing.']],
  [(text) => `{${withCommas(text)}}`, ['Commas and the braces around the whole were missing.']],
];

/** A line that ends a value, before one that begins a name, has a comma. */
function withCommas(text: string): string {
  return text.replaceAll(/(["'\d}\]el])([ \t]*(?:\/\/[^\n]*)?\n\s*)(?=["'][^"'\n]*["']\s*:)/g, '$1,$2');
}

/** What of the text only a lenient reader takes. */
function said(text: string): string[] {
  const outside = text.replaceAll(/"(?:[^"\\\n]|\\.)*"/g, '""');
  return [
    ...(/(?:^|[^:])\/\/|\/\*/.test(outside) ? ['Comments were left out.'] : []),
    ...(/,\s*[}\]]/.test(outside) ? ['A comma after the last entry was left out.'] : []),
    ...(/'/.test(outside) ? ['Single quotes were read as double ones.'] : []),
  ];
}

function parsed(read: () => unknown): JsonObject | null {
  try {
    const value = read() as never;
    return isObject(value) && !findUnsafe(value) ? value : null;
  } catch {
    return null;
  }
}
