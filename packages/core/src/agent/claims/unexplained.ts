import { isObject, type Json, type JsonObject } from '../../json/json.js';
import { decodedIn } from '../../tools/hidden-text.js';

/** Texts that a conversation has, by where they come from. */
export interface Told {
  /** What explains an argument: what the user says now, and what the tool's own server said. */
  explains: readonly string[];
  /** What no argument may repeat: each with what it is, as in `repeats the instructions`. */
  guarded: readonly { what: string; text: string }[];
}
/** An argument that nothing explains. */
export interface Unexplained {
  argument: string;
  /** Why, as the end of a sentence: `repeats the instructions`. */
  why: string;
}

/** So much may be repeated word for word, in characters: names and numbers are passed on all the time. */
const REPEATED = 60;
const STEP = 15;
/** Maximum length of checked text, in characters. */
const LOOKED = 64 * 1024;
const LONGEST = 16 * 1024;
/** Codes and keys, which are repeated whole: letters and digits together. */
const CODE = /[\p{L}\p{N}][\p{L}\p{N}_-]{14,200}[\p{L}\p{N}]/gu;
const isCode = (text: string) => /\p{L}/u.test(text) && /\d/.test(text);
/** Arguments in which a model is made to put what it knows, and how long such a one is. */
const CONFIDING =
  /^(?:context|conversation|history|transcript|chat_?history|system_?prompt|side_?notes?|debug|telemetry|env|environment|memory|thoughts?|reasoning)$/i;
const CONFIDED = 80;

const plain = (text: string) => text.slice(0, LOOKED).replaceAll(/\s+/g, ' ').toLowerCase();

/** The first argument that nothing explains; null where all are. @param args as the model gave them */
export function unexplainedIn(args: JsonObject, { explains, guarded }: Told): Unexplained | null {
  const known = explains.map(plain);
  const secret = guarded.map(({ what, text }) => ({ what, text: plain(text) }));
  for (const [argument, value] of Object.entries(args)) {
    const given = textsIn(value).flatMap((text) => [text, ...decodedIn(text.slice(0, LONGEST))]);
    for (const text of given.map((one) => plain(one.slice(0, LONGEST)))) {
      const isExplained = (part: string) => known.some((one) => one.includes(part));
      const source = repeatedIn(text, secret, isExplained);
      if (source !== null) return { argument, why: `repeats ${source}` };
      if (CONFIDING.test(argument) && text.length >= CONFIDED && !isExplained(text))
        return { argument, why: 'contains text that no user input explains' };
    }
  }
  return null;
}

/** What a text repeats of what is guarded, beyond what explains it; null where nothing. */
function repeatedIn(text: string, guarded: Told['guarded'], isExplained: (part: string) => boolean): string | null {
  for (let at = 0; at + REPEATED <= text.length; at += STEP) {
    const part = text.slice(at, at + REPEATED);
    const from = guarded.find((one) => one.text.includes(part));
    if (from && !isExplained(part)) return from.what;
  }
  for (const [code] of text.matchAll(CODE)) {
    if (!isCode(code) || isExplained(code)) continue;
    const from = guarded.find((one) => one.text.includes(code));
    if (from) return from.what;
  }
  return null;
}

/** Every text in a value. */
function textsIn(value: Json): string[] {
  if (typeof value === 'string') return [value];
  if (Array.isArray(value)) return value.flatMap(textsIn);
  return isObject(value) ? [...Object.keys(value), ...Object.values(value).flatMap(textsIn)] : [];
}
