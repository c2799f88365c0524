import { createHash } from 'node:crypto';
import { attribute, isLong, type JournalEntry, type Json, type Span } from '@pindro/core';

/** Values whose JSON is shorter stand where they are shown: a row of their own would cost more than it saves. */
const INLINE = 1024;

/** Parts of a span or an entry that may be long. */
const PARTS = ['input', 'output', 'result'] as const;
type Part = (typeof PARTS)[number];
/** Attributes that may be long, and are the same in many runs: what a model was offered is. */
const LONG_ATTRIBUTES = [attribute.offered, attribute.receipt, attribute.sent, attribute.exchanges];
/** Which of its parts, and `@` of its attributes, stand elsewhere, by the hash of their JSON. */
type Elsewhere = { [part: string]: string };
export type Stored<T> = T & { stored?: Elsewhere };
type Item = { [part in Part]?: Json };

export const hashOf = (text: string): string => createHash('sha256').update(text).digest('base64url');

/** Takes long values out. @param keep is given each, with its hash */
export function takeOut<T extends Span | JournalEntry>(item: T, keep: (hash: string, body: string) => void): Stored<T> {
  let stored: Elsewhere | undefined;
  let rest: Record<string, unknown> | undefined;
  for (const part of PARTS) {
    const value = (item as Item)[part];
    if (typeof value === 'number' || !value || !isLong(value, INLINE)) continue;
    const body = JSON.stringify(value);
    const hash = hashOf(body);
    keep(hash, body);
    stored ??= {};
    stored[part] = hash;
    rest ??= { ...item };
    delete rest[part];
  }
  if ('attributes' in item)
    for (const name of LONG_ATTRIBUTES) {
      const value = item.attributes[name];
      if (value === undefined || (name !== attribute.exchanges && !isLong(value, INLINE))) continue;
      const body = JSON.stringify(value);
      const hash = hashOf(body);
      keep(hash, body);
      stored ??= {};
      stored[`@${name}`] = hash;
      rest ??= { ...item };
      const { [name]: _, ...others } = rest.attributes as Span['attributes'];
      rest.attributes = others;
    }
  return stored ? ({ ...rest, stored } as Stored<T>) : item;
}

/** Restores extracted values. @param bodies JSON by hash; pruned values are reported as gone */
export function restoreRemoved<T extends Span | JournalEntry>(item: Stored<T>, bodies: ReadonlyMap<string, string>): T {
  const { stored, ...rest } = item;
  if (!stored) return item;
  for (const [part, hash] of Object.entries(stored)) {
    const body = bodies.get(hash);
    const value = body === undefined ? { gone: true } : (JSON.parse(body) as Json);
    if (!part.startsWith('@')) (rest as Item)[part as Part] = value;
    else {
      const span = rest as unknown as Span;
      span.attributes = { ...span.attributes, [part.slice(1)]: value };
    }
  }
  return rest as unknown as T;
}

/** Every hash that items refer to. */
export const hashesIn = (items: readonly Stored<Span | JournalEntry>[]): string[] => [
  ...new Set(items.flatMap(({ stored }) => (stored ? Object.values(stored) : []))),
];

const EXCHANGES = `@${attribute.exchanges}`;

/** A span without its exchanges, which are loaded on demand. */
export function withoutExchanges(span: Stored<Span>): Stored<Span> {
  if (!span.stored || !(EXCHANGES in span.stored)) return span;
  const { [EXCHANGES]: _, ...stored } = span.stored;
  return { ...span, stored };
}

/** Where the exchanges of a span are stored, if any. */
export const exchangesOf = ({ stored }: Stored<Span>): string | undefined => stored?.[EXCHANGES];
