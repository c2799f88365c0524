import type { StepCard } from '@pindro/contract/light';
import { isObject, type Json, type JsonObject } from '@pindro/core/browser';

/** One value that an expression can reach. */
export interface Reachable {
  path: string;
  /** What it is, in a word: its type, or where it comes from. */
  about: string;
  /** What it was in the last run, where it was run. */
  value?: Json | undefined;
}

interface Known {
  input: JsonObject;
  /** Cards of the steps that come before. */
  before: StepCard[];
  lastInput: Json | undefined;
  lastOutputs: { [step: string]: Json };
  inLoop: boolean;
}

/** Values are listed so deep, and of a list the first item. */
const DEPTH = 5;
const MOST = 400;

/** Every path that an expression at a place can use, with its value in the last run. */
export function reachable({ input, before, lastInput, lastOutputs, inLoop }: Known): Reachable[] {
  const list: Reachable[] = [];
  const walk = (path: string, value: Json | undefined, depth: number) => {
    if (depth > DEPTH || list.length > MOST) return;
    if (Array.isArray(value) && value.length > 0) return add(`${path}[0]`, 'first item', value[0], depth + 1);
    if (!isObject(value)) return;
    for (const [name, inner] of Object.entries(value)) add(path + access(name), typeWord(inner), inner, depth + 1);
  };
  const add = (path: string, about: string, value: Json | undefined, depth = 0) => {
    list.push({ path, about, ...(value !== undefined && { value }) });
    walk(path, value, depth);
  };
  for (const [name, schema] of Object.entries(isObject(input.properties) ? input.properties : {}))
    add(
      `input${access(name)}`,
      isObject(schema) ? String(schema.type ?? 'input') : 'input',
      isObject(lastInput) ? lastInput[name] : undefined,
    );
  if (inLoop) list.push({ path: 'item', about: 'the item' }, { path: 'index', about: 'index, from 0' });
  for (const card of before) {
    const types = isObject(card.output as Json) ? (card.output as JsonObject) : {};
    const output = lastOutputs[card.name];
    const names = [...new Set([...Object.keys(types), ...Object.keys(isObject(output) ? output : {})])];
    for (const name of names)
      add(
        `steps.${card.name}${access(name)}`,
        typeof types[name] === 'string' ? String(types[name]) : 'object',
        isObject(output) ? output[name] : undefined,
      );
  }
  for (const [path, about] of ALWAYS) list.push({ path, about });
  return list;
}

const ALWAYS = [
  ['caller.id', 'the caller'],
  ['clock.today', 'today'],
  ['clock.now', 'now'],
  ['session.id', 'the conversation'],
  ['run.id', 'this run'],
] as const;

const access = (name: string) => (/^[A-Za-z_]\w*$/.test(name) ? `.${name}` : `[${JSON.stringify(name)}]`);
const typeWord = (value: Json) => (value === null ? 'nothing' : Array.isArray(value) ? 'list' : typeof value);

/** Returns the text of the expression before the cursor, if the cursor is in one. */
export function expressionAt(text: string, cursor: number): { from: number; word: string } | null {
  const open = text.lastIndexOf('${', cursor);
  if (open < 0 || open + 2 > cursor || text.slice(open, cursor).includes('}')) return null;
  const word = /[\w.[\]"]*$/.exec(text.slice(open + 2, cursor))?.[0] ?? '';
  return { from: cursor - word.length, word };
}

/** A text and the cursor position. */
export interface Typed {
  text: string;
  cursor: number;
}

/** What somebody typed, with an expression that was just begun closed behind the cursor. */
export function closed(before: string, { text, cursor }: Typed): Typed {
  const isBegun = text.length === before.length + 1 && text.slice(cursor - 2, cursor) === '${';
  // A double dollar means the two signs themselves.
  if (!isBegun || text[cursor - 3] === '$' || text.slice(cursor).trimStart().startsWith('}')) return { text, cursor };
  return { text: `${text.slice(0, cursor)}}${text.slice(cursor)}`, cursor };
}

/**
 * A value's path in a text: in place of the word of the expression one is in, else as an expression of its own. An
 * expression of which it is the last is left, since most are one value.
 */
export function withPath(path: string, { text, cursor }: Typed): Typed {
  const inside = expressionAt(text, cursor);
  const from = inside ? inside.from : cursor;
  const before = text.slice(0, from);
  const rest = text.slice(cursor);
  if (!inside) return { text: `${before}\${ ${path} }${rest}`, cursor: from + path.length + 5 };
  const end = /^\s*\}/.exec(rest);
  const isOpen = !rest.includes('}') || (rest.includes('${') && rest.indexOf('${') < rest.indexOf('}'));
  const space = before.endsWith('{') ? ' ' : '';
  if (!end && !isOpen) return { text: before + space + path + rest, cursor: from + space.length + path.length };
  const put = `${space}${path} }`;
  return { text: before + put + rest.slice(end?.[0].length ?? 0), cursor: from + put.length };
}
