import type { PindroError } from '../../errors/errors.js';
import { asJson, isObject, type Json, type JsonObject, type JsonSchema } from '../../json/json.js';
import { FormIndex } from './form-index.js';
import { formsOf, lowerEscapes } from './secret-forms.js';

export const MASK = '•••';

/** Minimum length of a secret, in characters. Redacting a shorter one would also change unrelated text. */
export const SHORTEST_SECRET = 6;

/**
 * Redacts known secrets in all encodings before data leaves the core. The masker of a run extends that of the
 * workspace.
 */
export class Masker {
  readonly #secrets = new Set<string>();
  /** Whether one of them may appear as a number. */
  #numeric = false;
  #compiled: FormIndex | null = null;
  /** No shorter text can be or hold a secret, in characters; 0 until it is known. Nearly all texts are shorter. */
  #least = 0;

  /** @param below what else is masked, whatever is known here */
  constructor(private readonly below: Masker | null = null) {}

  /** The secrets it knows itself, plain. */
  get secrets(): string[] {
    return [...this.#secrets];
  }

  get #knowsNothing(): boolean {
    return this.#secrets.size === 0 && (this.below === null || this.below.#knowsNothing);
  }

  /** Makes a secret known. */
  add(secret: string): void {
    if (!secret || secret === MASK || this.#secrets.has(secret)) return;
    this.#secrets.add(secret);
    this.#numeric ||= String(Number(secret)) === secret;
    this.#compiled = null;
    this.#least = 0;
  }

  text(text: string): string {
    const masked = this.below ? this.below.text(text) : text;
    if (this.#secrets.size === 0 || masked.length < this.#least) return masked;
    return this.#secrets.has(masked) ? MASK : this.#replace(masked);
  }

  /** Secrets may overlap in a text; what they cover together is masked as one. */
  #replace(text: string): string {
    const index = this.#index();
    const found = index.find(text);
    // Escapes in addresses may be written in either case; the forms that are known are of lower case.
    if (text.includes('%')) found.push(...index.find(lowerEscapes(text)));
    if (found.length === 0) return text;
    let masked = '';
    let end = 0;
    for (const [from, to] of found.sort((a, b) => a[0] - b[0])) {
      if (from >= end) masked += text.slice(end, from) + MASK;
      end = Math.max(end, to);
    }
    return masked + text.slice(end);
  }

  #index(): FormIndex {
    if (!this.#compiled) {
      const secrets = [...this.#secrets].filter((secret) => secret.length >= SHORTEST_SECRET);
      const forms = secrets.flatMap(formsOf).filter((form) => form.length >= SHORTEST_SECRET);
      this.#compiled = new FormIndex(forms);
      this.#least = [...this.#secrets, ...forms].reduce((least, { length }) => Math.min(least, length), Infinity);
    }
    return this.#compiled;
  }

  /** The value with every secret in its texts, numbers and property names masked; the very same value where there is none. */
  json<T extends Json | undefined>(value: T): T {
    return this.#knowsNothing ? value : (this.#walk(value as Json, this.#masksNumbers) as T);
  }

  /** The same record, of an error, a receipt or the like, with every secret in it masked. @param value made of JSON */
  record<T extends object>(value: T): T {
    return this.json(value as unknown as Json) as unknown as T;
  }

  get #masksNumbers(): boolean {
    if (this.#numeric) return true;
    return this.below ? this.below.#masksNumbers : false;
  }

  /** @param numbers whether a number may be a secret; without, long lists of numbers are passed over */
  #walk(value: Json, numbers: boolean): Json {
    if (typeof value === 'string') return this.text(value);
    if (typeof value === 'number') return numbers && this.#isSecret(String(value)) ? MASK : value;
    if (Array.isArray(value)) {
      let copy: Json[] | null = null;
      for (let index = 0; index < value.length; index++) {
        const item = value[index]!;
        const walked = typeof item === 'number' && !numbers ? item : this.#walk(item, numbers);
        if (walked !== item) copy ??= value.slice(0, index);
        copy?.push(walked);
      }
      return copy ?? value;
    }
    if (!isObject(value)) return value;
    // Most objects hold no secret: nothing is copied before one is found.
    let copy: [string, Json][] | null = null;
    const keys = Object.keys(value);
    for (let index = 0; index < keys.length; index++) {
      const key = keys[index]!;
      const [name, item] = [this.text(key), this.#walk(value[key]!, numbers)];
      if (name !== key || item !== value[key]) copy ??= keys.slice(0, index).map((one) => [one, value[one]!]);
      copy?.push([name, item]);
    }
    return copy ? Object.fromEntries(copy) : value;
  }

  #isSecret(text: string): boolean {
    if (this.#secrets.has(text)) return true;
    return this.below === null ? false : this.below.#isSecret(text);
  }

  /** How much of the end of a text may be the beginning of a secret, in characters. */
  #undecided(text: string): number {
    const below = this.below ? this.below.#undecided(text) : 0;
    return this.#secrets.size === 0 ? below : Math.max(below, this.#index().undecided(text));
  }

  /** Masks a stream of text: a possible beginning of a secret is buffered until it is decided. */
  stream(): { push(piece: string): string; end(): string } {
    let held = '';
    return {
      push: (piece) => {
        held = this.text(held + piece);
        const ready = held.length - this.#undecided(held);
        const shown = held.slice(0, ready);
        held = held.slice(ready);
        return shown;
      },
      end: () => {
        const rest = this.text(held);
        held = '';
        return rest;
      },
    };
  }
}

/**
 * Returns a copy of an error with all secrets redacted.
 * @param error to copy
 * @param masker that knows the secrets
 * @returns a new error with the same code
 */
export function maskError(error: PindroError, masker: Masker): PindroError {
  error.message = masker.text(error.message);
  const { hint, details, mistakes } = error;
  return Object.assign(error, {
    hint: masker.text(hint),
    ...(details && { details: masker.json(details) }),
    ...(mistakes && { mistakes: masker.json(asJson(mistakes)) }),
  });
}

/** Whether a property is marked sensitive, by JSON Schema's `writeOnly` or the format `password`. */
const isSensitive = (schema: JsonObject) => schema.writeOnly === true || schema.format === 'password';

/** Whether anything in a schema is marked so; most have nothing, and their values need not be gone through. */
const marked = new WeakMap<JsonSchema, boolean>();
function hasSensitive(schema: JsonSchema): boolean {
  let known = marked.get(schema);
  if (known === undefined) marked.set(schema, (known = /"writeOnly"|"password"/.test(JSON.stringify(schema))));
  return known;
}

/**
 * Collects the texts of an input that its schema marks as sensitive, at any depth. Marked objects and lists count as
 * a whole.
 * @param schema of the input
 * @param value of the input
 * @returns the values, for {@link Masker.add}; numbers are given as text
 */
export function sensitiveValues(schema: JsonSchema | undefined, value: Json): string[] {
  const found: string[] = [];
  const walk = (here: unknown, value: Json, inside: boolean): void => {
    const own = isObject(here) ? here : {};
    const sensitive = inside || isSensitive(own);
    if (typeof value === 'string' || typeof value === 'number') {
      if (sensitive) found.push(String(value));
    } else if (Array.isArray(value)) for (const item of value) walk(own.items, item, sensitive);
    else if (isObject(value)) {
      const properties = isObject(own.properties) ? own.properties : {};
      for (const [key, item] of Object.entries(value))
        walk(Object.hasOwn(properties, key) ? properties[key] : own.additionalProperties, item, sensitive);
    }
  };
  if (isObject(schema) && hasSensitive(schema)) walk(schema, value, false);
  return found;
}
