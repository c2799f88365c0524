import { createHash } from 'node:crypto';
import { isLong, type JournalEntry, type Json, type Span } from '@pindro/core';

/** Values whose JSON is shorter stand where they are shown: a row of their own would cost more than it saves. */
const INLINE = 1024;

/** Parts of a span or an entry that may be long. */
const PARTS = ['input', 'output', 'result'] as const;
type Part = (typeof PARTS)[number];
/** Which of its parts stand elsewhere, by the hash of their JSON. */
type Elsewhere = Partial<Record<Part, string>>;
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
  return stored ? ({ ...rest, stored } as Stored<T>) : item;
}

/** Puts values back where they were taken out. @param bodies JSON by hash; what was pruned is told as gone */
export function putBack<T extends Span | JournalEntry>(item: Stored<T>, bodies: ReadonlyMap<string, string>): T {
  const { stored, ...rest } = item;
  if (!stored) return item;
  for (const [part, hash] of Object.entries(stored)) {
    const body = bodies.get(hash);
    (rest as Item)[part as Part] = body === undefined ? { gone: true } : (JSON.parse(body) as Json);
  }
  return rest as unknown as T;
}

/** Every hash that items refer to. */
export const hashesIn = (items: readonly Stored<Span | JournalEntry>[]): string[] => [
  ...new Set(items.flatMap(({ stored }) => (stored ? Object.values(stored) : []))),
];
