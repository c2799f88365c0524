import { isObject, type Json, ownOf, PindroError, setOwn } from '@pindro/core';

/**
 * Sets what stands at a JSON Pointer; what was seen there must still be there.
 * @throws cure_stale
 */
export function setAt(document: Json, pointer: string, from: Json, to: Json): void {
  const parts = pointer
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  const last = parts.pop()!;
  let holder: Json | undefined = document;
  for (const part of parts)
    holder = Array.isArray(holder) ? holder[Number(part)] : isObject(holder) ? ownOf(holder, part) : undefined;
  if (Array.isArray(holder)) {
    requireSame(holder[Number(last)] ?? null, from, pointer);
    holder[Number(last)] = to;
  } else if (isObject(holder)) {
    requireSame(Object.hasOwn(holder, last) ? holder[last]! : null, from, pointer);
    setOwn(holder, last, to);
  } else throw stale(pointer);
}

/** @throws cure_stale */
export function requireSame(now: Json, then: Json, what: string): void {
  if (JSON.stringify(now) !== JSON.stringify(then)) throw stale(what);
}

const stale = (what: string) => new PindroError('cure_stale', { what }, { at: what.startsWith('/') ? what : '' });
