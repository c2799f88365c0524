/** Any value that survives JSON. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
export type JsonObject = { [key: string]: Json };
/** A JSON Schema 2020-12 document, as far as the core cares: an object. */
export type JsonSchema = JsonObject;

export function isObject(value: unknown): value is JsonObject {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** A JSON Pointer (RFC 6901) made of its parts. */
export function pointer(parts: readonly PropertyKey[]): string {
  return parts.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
}

/** The parts of a JSON Pointer (RFC 6901). */
export function pointerParts(text: string): string[] {
  return text
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
}

/** What stands at a path of property names and indexes, or undefined. */
export function valueAt(value: unknown, parts: readonly PropertyKey[]): unknown {
  let here = value;
  for (const part of parts) {
    if (typeof here !== 'object' || here === null) return undefined;
    here = (here as Record<PropertyKey, unknown>)[part];
  }
  return here;
}

/** Nesting beyond this many levels is refused wherever data enters. */
export const MAX_DEPTH = 64;

/**
 * Finds what JSON text can carry but the rest of the system could only carry wrongly: nesting deeper than
 * {@link MAX_DEPTH}, and whole numbers beyond 2^53 - 1, which have already lost digits when they arrive.
 * @returns where and why, or undefined when all is well
 */
export function findUnsafe(value: unknown): { at: string; why: string; deep?: true } | undefined {
  const stack: { value: unknown; parts: PropertyKey[] }[] = [{ value, parts: [] }];
  for (let item = stack.pop(); item; item = stack.pop()) {
    const { value: here, parts } = item;
    if (typeof here === 'number' && Number.isInteger(here) && !Number.isSafeInteger(here)) {
      return { at: pointer(parts), why: 'is a whole number beyond 2^53 - 1; send it as text' };
    }
    if (typeof here !== 'object' || here === null) continue;
    if (parts.length >= MAX_DEPTH) {
      return { at: pointer(parts.slice(0, 3)), why: `is nested deeper than ${MAX_DEPTH} levels`, deep: true };
    }
    for (const [key, inner] of Object.entries(here)) stack.push({ value: inner, parts: [...parts, key] });
  }
  return undefined;
}
