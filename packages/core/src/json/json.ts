/** Any JSON value. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
export type JsonObject = { [key: string]: Json };
/** A JSON Schema 2020-12 document that is an object. */
export type JsonSchema = JsonObject;

/** What a type is when its values are JSON; `never` where one is not, such as a function or a date. */
type JsonOf<T> = T extends Json | undefined
  ? T
  : T extends (...given: never[]) => unknown
    ? never
    : T extends object
      ? { [Name in keyof T]: JsonOf<T[Name]> }
      : never;
type JsonFor<T> = T extends readonly (infer Item)[] ? JsonFor<Item>[] : T extends object ? JsonObject : Json;

/**
 * Takes a value for JSON. Compiles only where its type has nothing else, which a cast would not ask.
 * @param value of an interface or a list of them
 * @returns the same value
 */
export const asJson = <T>(value: T & JsonOf<T>): JsonFor<T> => value as unknown as JsonFor<T>;

/**
 * Tells whether a value is a JSON object: neither null nor an array.
 * @param value anything
 * @returns true for an object
 */
export function isObject(value: unknown): value is JsonObject {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/**
 * Creates a JSON Pointer (RFC 6901).
 * @param parts property names and indexes
 * @returns the pointer; empty for no parts
 */
export function pointer(parts: readonly PropertyKey[]): string {
  return parts.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
}

/**
 * Parses a JSON Pointer (RFC 6901).
 * @param text JSON Pointer
 * @returns property names and indexes as text
 */
export function pointerParts(text: string): string[] {
  return text
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
}

/**
 * Returns the value at a path of property names and indexes.
 * @param value to look into
 * @param parts property names and indexes
 * @returns the value, or undefined
 */
export function valueAt(value: unknown, parts: readonly PropertyKey[]): unknown {
  let here = value;
  for (const part of parts) {
    if (typeof here !== 'object' || here === null || !Object.hasOwn(here, part)) return undefined;
    here = (here as Record<PropertyKey, unknown>)[part];
  }
  return here;
}

/**
 * An object of entries. A name such as `__proto__` becomes a property like any other, which an assignment would not do.
 */
export const objectOf = <T>(entries: Iterable<readonly [string, T]>): { [key: string]: T } =>
  Object.fromEntries(entries) as { [key: string]: T };

/**
 * Returns an own property of an object, and nothing inherited, such as `constructor`.
 * @param object to read; null and undefined have nothing
 * @param name of the property
 * @returns the value, or undefined
 */
export function ownOf<T>(object: { readonly [name: string]: T } | null | undefined, name: string): T | undefined {
  return object && Object.hasOwn(object, name) ? object[name] : undefined;
}

/**
 * Sets a property under any name.
 * @param object to change
 * @param name of the property, also `__proto__`
 * @param value of the property
 */
export function setOwn(object: object, name: string, value: unknown): void {
  if (name === '__proto__')
    Object.defineProperty(object, name, { value, writable: true, enumerable: true, configurable: true });
  else (object as Record<string, unknown>)[name] = value;
}

/**
 * Serializes a value independently of the order of its properties.
 * @param value any JSON value
 * @returns JSON text with sorted property names and no white space
 */
export function canonical(value: Json): string {
  return JSON.stringify(value, (_, part: unknown) =>
    isObject(part) ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1))) : part,
  );
}

/** The bytes of a base64 text. @throws where it is none */
export const base64ToBytes = (text: string): Uint8Array => Uint8Array.from(atob(text), (one) => one.charCodeAt(0));

export function bytesToBase64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

/**
 * Returns whether the JSON of a value exceeds a number of characters, without serializing it.
 * @param value any JSON value
 * @param characters the limit
 * @returns true if its JSON has more characters
 */
export function isLong(value: unknown, characters: number): boolean {
  let left = characters;
  const walk = (here: unknown): void => {
    if (typeof here === 'string') left -= here.length + 2;
    else if (typeof here !== 'object' || here === null) left -= 4;
    else if (Array.isArray(here))
      for (let index = 0; index < here.length && left >= 0; index++) {
        left--;
        walk(here[index]);
      }
    else
      for (const key of Object.keys(here)) {
        left -= key.length + 4;
        if (left < 0) return;
        walk((here as Record<string, unknown>)[key]);
      }
  };
  walk(value);
  return left < 0;
}

/**
 * Shortens a value for a sentence. A text is shown whole or not at all, because part of a secret would not be
 * recognized for redaction.
 * @param value any JSON value
 * @param characters the limit
 * @returns its JSON, or a description of its type and size over the limit
 */
export function preview(value: unknown, characters: number): string {
  if (!isLong(value, characters)) {
    const text = JSON.stringify(value) ?? 'nothing';
    if (text.length <= characters) return text;
  }
  if (typeof value === 'string') return `a string of ${value.length} characters`;
  if (Array.isArray(value)) return `an array of ${value.length} ${value.length === 1 ? 'item' : 'items'}`;
  const names = Object.keys((value ?? {}) as object);
  return `an object of ${names.length} ${names.length === 1 ? 'property' : 'properties'}`;
}

/** Nesting beyond this many levels is refused wherever data enters. */
export const MAX_DEPTH = 64;

/**
 * Finds values that JSON text can represent and the rest of the system cannot: nesting deeper than {@link
 * MAX_DEPTH}, and integers beyond 2^53 - 1, which have lost digits when they arrive.
 * @param value parsed JSON
 * @returns where and why, or undefined when all is well
 */
export function findUnsafe(value: unknown): { at: string; why: string; deep?: true } | undefined {
  const path: PropertyKey[] = [];
  const look = (here: unknown): { why: string; deep?: true } | undefined => {
    if (typeof here === 'number') {
      if (Number.isSafeInteger(here) || !Number.isInteger(here)) return undefined;
      return { why: 'is an integer beyond 2^53 - 1; send it as a string' };
    }
    if (typeof here !== 'object' || here === null) return undefined;
    if (path.length >= MAX_DEPTH) return { why: `is nested deeper than ${MAX_DEPTH} levels`, deep: true };
    if (Array.isArray(here)) {
      for (let index = 0; index < here.length; index++) {
        const item: unknown = here[index];
        // Most lists hold texts and small numbers, which need no further look.
        if (typeof item === 'string' || (typeof item === 'number' && item <= 2 ** 53 - 1 && item >= 1 - 2 ** 53))
          continue;
        path.push(index);
        const found = look(item);
        if (found) return found;
        path.pop();
      }
      return undefined;
    }
    for (const key of Object.keys(here)) {
      path.push(key);
      const found = look((here as Record<string, unknown>)[key]);
      if (found) return found;
      path.pop();
    }
    return undefined;
  };
  const found = look(value);
  return found && { at: pointer(found.deep ? path.slice(0, 3) : path), ...found };
}

/** Whether a value contains more than a number of scalars, without counting further. */
export function holdsMore(value: unknown, most: number): boolean {
  let left = most;
  const stack: unknown[] = [value];
  for (let here = stack.pop(); here !== undefined; here = stack.pop()) {
    if (typeof here !== 'object' || here === null) continue;
    const inner = Array.isArray(here) ? here : Object.values(here);
    left -= inner.length;
    if (left < 0) return true;
    for (const one of inner) if (typeof one === 'object' && one !== null) stack.push(one);
  }
  return false;
}
