import { isObject, type Json, type JsonObject, type JsonSchema } from '../json.js';

export const MASK = '•••';

/** Shorter secrets are masked only where they are the whole text: elsewhere they would hit innocent words. */
const MIN_INSIDE = 6;

const bytesToBase64 = (text: string) => {
  let binary = '';
  for (const byte of new TextEncoder().encode(text)) binary += String.fromCharCode(byte);
  return btoa(binary);
};

/** Every form in which a secret may turn up: plain, base64 and base64url, URL-encoded, JSON-escaped. */
function formsOf(secret: string): string[] {
  const base64 = bytesToBase64(secret);
  const bare = base64.replace(/=+$/, '');
  const forms = [secret, base64, bare, bare.replaceAll('+', '-').replaceAll('/', '_')];
  forms.push(encodeURIComponent(secret), JSON.stringify(secret).slice(1, -1));
  return [...new Set(forms)].filter((form) => form.length > 0);
}

/** Replaces known secrets, in all their forms, before anything leaves the core. */
export class Masker {
  #forms: string[] = [];
  readonly #secrets = new Set<string>();

  /** The secrets it knows, plain. */
  get secrets(): string[] {
    return [...this.#secrets];
  }

  /** Makes a secret known. Longest forms are looked for first, so that none is left half shown. */
  add(secret: string): void {
    if (!secret || secret === MASK || this.#secrets.has(secret)) return;
    this.#secrets.add(secret);
    const forms = formsOf(secret).filter((form) => !this.#forms.includes(form));
    if (forms.length > 0) this.#forms = [...this.#forms, ...forms].sort((a, b) => b.length - a.length);
  }

  text(text: string): string {
    let masked = text;
    for (const form of this.#forms) {
      if (masked === form) return MASK;
      if (form.length >= MIN_INSIDE && masked.includes(form)) masked = masked.replaceAll(form, MASK);
    }
    return masked;
  }

  /** The value with every secret in its texts and property names masked; the very same value where there is none. */
  json<T extends Json | undefined>(value: T): T {
    if (this.#forms.length === 0) return value;
    return this.#walk(value as Json) as T;
  }

  #walk(value: Json): Json {
    if (typeof value === 'string') return this.text(value);
    if (Array.isArray(value)) {
      const walked = value.map((item) => this.#walk(item));
      return walked.every((item, index) => item === value[index]) ? value : walked;
    }
    if (!isObject(value)) return value;
    const entries = Object.entries(value);
    const walked = entries.map(([key, item]) => [this.text(key), this.#walk(item)] as const);
    const same = walked.every(([key, item], index) => key === entries[index]![0] && item === entries[index]![1]);
    return same ? value : Object.fromEntries(walked);
  }

  /** Masks a text that arrives in pieces: what may be the beginning of a secret is held back until it is decided. */
  stream(): { push(piece: string): string; end(): string } {
    let held = '';
    return {
      push: (piece) => {
        held = this.text(held + piece);
        let keep = 0;
        for (const form of this.#forms) {
          if (form.length < MIN_INSIDE) continue;
          for (let size = Math.min(form.length - 1, held.length); size > keep; size--) {
            if (held.endsWith(form.slice(0, size))) keep = size;
          }
        }
        const ready = held.slice(0, held.length - keep);
        held = held.slice(held.length - keep);
        return ready;
      },
      end: () => {
        const rest = this.text(held);
        held = '';
        return rest;
      },
    };
  }
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
 * The texts in an input that its schema marks as sensitive, at any depth of properties and items. Where a whole object
 * or list is marked, all in it.
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
