import type { Json } from '@pindro/core/browser';

/** A text that is an object or a list in JSON; null where it is anything else. */
export function readStructured(text: string): Json | null {
  if (!/^\s*[[{]/.test(text)) return null;
  try {
    return JSON.parse(text) as Json;
  } catch {
    return null;
  }
}
