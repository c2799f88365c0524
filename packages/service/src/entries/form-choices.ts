import { createHash } from 'node:crypto';
import { type JsonObject, type JsonSchema, type LookedUp, type Lookup, lookupSchema, ownOf } from '@pindro/core';
import { LRUCache } from 'lru-cache';
import type { Values } from '../values/values.js';
import { type Choice, type Choices, properties } from './form-fields.js';
import type { EntryRecord } from './store.js';

/** Refresh interval of listed values in milliseconds: otherwise every view of a public page would call their source. */
const KEPT = 60_000;
const MOST_KEPT = 500;
/** A page waits so long for what lists its values, in milliseconds. Without them its fields take any text. */
const WITHIN = 5000;

/**
 * Lists the values of a form's inputs for visitors: only where an input declares their source with `x-values`, and without
 * other columns of it than the declared `value` and `label`. All visitors see the same values, so that none sees the rows
 * of another.
 */
export class FormChoices {
  readonly #kept = new LRUCache<string, Promise<LookedUp[]>>({ max: MOST_KEPT, ttl: KEPT });

  constructor(private readonly values: Values) {}

  async of(entry: EntryRecord, schema: JsonSchema, given: JsonObject): Promise<Choices> {
    const declared = properties(schema).flatMap(([name, property]) => {
      const { data } = lookupSchema.safeParse(property['x-values']);
      // Secret fields are never filled in again.
      return data && property.writeOnly !== true ? [[name, data] as const] : [];
    });
    const listed = declared.map(async ([name, from]): Promise<[string, Choice]> => {
      const depends = (from.with ?? []).length > 0;
      return [name, { depends, items: await this.#list(entry, name, from, given) }];
    });
    return new Map(await Promise.all(listed));
  }

  async #list(entry: EntryRecord, argument: string, from: Lookup, given: JsonObject): Promise<LookedUp[]> {
    const needed = from.with ?? [];
    if (needed.some((name) => ownOf(given, name) === undefined)) return [];
    const known = Object.fromEntries(needed.map((name) => [name, ownOf(given, name)!]));
    // What visitors send may be long, and is not kept.
    const key = createHash('sha256')
      .update(JSON.stringify([entry.id, argument, from, known]))
      .digest('base64');
    let asked = this.#kept.get(key);
    if (!asked) this.#kept.set(key, (asked = this.#ask(entry, argument, from, known)));
    try {
      return await asked;
    } catch {
      // The field takes a text then. The next view asks again.
      this.#kept.delete(key);
      return [];
    }
  }

  async #ask(entry: EntryRecord, argument: string, from: Lookup, known: JsonObject): Promise<LookedUp[]> {
    const caller = { id: `form ${entry.path}`, attributes: {} };
    const wanted = { flow: entry.flow, argument, arguments: known, from };
    const { items } = await this.values.find(wanted, caller, AbortSignal.timeout(WITHIN));
    return from.label === undefined ? items.map(({ value }) => ({ value, label: '' })) : items;
  }
}
