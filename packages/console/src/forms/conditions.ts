import { isObject, type Json, type JsonObject } from '@pindro/core/browser';

/** Comparisons of a condition, as people say them; a plain value means that it is just that. */
export const COMPARISONS = [
  { word: 'is', says: 'is' },
  { word: 'not', says: 'is not' },
  { word: 'gt', says: 'is greater than' },
  { word: 'gte', says: 'is at least' },
  { word: 'lt', says: 'is less than' },
  { word: 'lte', says: 'is at most' },
  { word: 'in', says: 'is one of' },
  { word: 'contains', says: 'contains' },
] as const;
export type Comparison = (typeof COMPARISONS)[number]['word'];

export interface Condition {
  column: string;
  comparison: Comparison;
  value: Json;
}

/** A condition of a document as its three parts. */
export function readCondition(column: string, written: Json): Condition {
  if (isObject(written)) {
    const [word, value] = Object.entries(written)[0] ?? ['is', ''];
    if (COMPARISONS.some((one) => one.word === word)) return { column, comparison: word as Comparison, value };
  }
  return { column, comparison: 'is', value: written };
}

/** The three parts as a document has them. Of several values only "is one of" takes more than the first. */
export function writeCondition({ comparison, value }: Omit<Condition, 'column'>): Json {
  if (comparison === 'in') return { in: Array.isArray(value) ? value : value === '' ? [] : [value] };
  const one = Array.isArray(value) ? (value[0] ?? '') : value;
  return comparison === 'is' ? one : { [comparison]: one };
}

/** The conditions with one changed, in their order; a new column takes the place of the old one. */
export function withCondition(where: JsonObject, old: string, next: Condition): JsonObject {
  const entries = Object.entries(where).map(([column, written]): [string, Json] =>
    column === old ? [next.column, writeCondition(next)] : [column, written],
  );
  return Object.fromEntries(old in where ? entries : [...entries, [next.column, writeCondition(next)]]);
}
