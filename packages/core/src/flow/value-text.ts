import { parse, stringify } from 'yaml';
import type { Json } from '../json/json.js';

/** A value as people write it. */
export function showValue(value: Json | undefined): string {
  if (value === undefined) return '';
  return stringify(value, { lineWidth: 0 }).replace(/\n$/, '');
}

/** What people wrote, as a value; an empty text is nothing. @throws Error that says where it cannot be read */
export function readValue(text: string): Json | undefined {
  if (text.trim() === '') return undefined;
  return parse(text, { maxAliasCount: 100, prettyErrors: true }) as Json;
}
