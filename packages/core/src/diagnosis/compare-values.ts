import { canonical, isObject, type Json } from '../json/json.js';

/** One field of two values, side by side. */
export interface ComparedField {
  /** Names and indexes from the outside in; empty for the value itself. */
  path: readonly (string | number)[];
  /** undefined: this side has no such field. */
  one: Json | undefined;
  other: Json | undefined;
  same: boolean;
}

/** A part of a text, and whether the other text differs there. */
export interface TextPiece {
  text: string;
  differs: boolean;
}

/** So deep it is looked into values; below, they are compared whole. */
const MAX_LEVELS = 8;

/**
 * Compares two values field by field, in the order of the first; fields of the second alone come last. Descends into
 * objects and arrays only where both sides have one; equal ones stay whole.
 * @param one the first value; undefined if there is none
 * @param other the second value
 * @returns fields in which they are alike or differ; a single one with an empty path where neither has fields
 */
export function compareValues(one: Json | undefined, other: Json | undefined): ComparedField[] {
  return fieldsOf(one, other, []);
}

function fieldsOf(one: Json | undefined, other: Json | undefined, path: ComparedField['path']): ComparedField[] {
  if (alike(one, other)) return path.length > 0 || !hasFields(one) ? [{ path, one, other, same: true }] : inside();
  return path.length < MAX_LEVELS && sameShape(one, other) ? inside() : [{ path, one, other, same: false }];

  function inside(): ComparedField[] {
    const [left, right] = [new Map(entries(one)), new Map(entries(other))];
    const names = [...left.keys(), ...[...right.keys()].filter((name) => !left.has(name))];
    return names.flatMap((name) => fieldsOf(left.get(name), right.get(name), [...path, name]));
  }
}

const alike = (one: Json | undefined, other: Json | undefined) =>
  one === undefined || other === undefined ? one === other : canonical(one) === canonical(other);
const hasFields = (value: Json | undefined): boolean => entries(value).length > 0;
const sameShape = (one: Json | undefined, other: Json | undefined) =>
  (Array.isArray(one) && Array.isArray(other)) || (isObject(one) && isObject(other));

function entries(value: Json | undefined): [string | number, Json][] {
  if (Array.isArray(value)) return [...value.entries()];
  return isObject(value) ? Object.entries(value) : [];
}

/** Words with the space after them, so that a difference begins and ends where a word does. */
const words = (text: string) => text.match(/\S+\s*|^\s+/g) ?? [];

/**
 * Marks the differences between two texts by words, between their common beginning and their common end.
 * @param one the first text
 * @param other the second text
 * @returns the pieces of the first and of the second text
 */
export function compareTexts(one: string, other: string): [TextPiece[], TextPiece[]] {
  const [left, right] = [words(one), words(other)];
  const most = Math.min(left.length, right.length);
  let begin = 0;
  while (begin < most && left[begin] === right[begin]) begin++;
  let end = 0;
  while (end < most - begin && left[left.length - 1 - end] === right[right.length - 1 - end]) end++;
  return [pieces(left, begin, end), pieces(right, begin, end)];
}

function pieces(all: readonly string[], begin: number, end: number): TextPiece[] {
  return [
    { text: all.slice(0, begin).join(''), differs: false },
    { text: all.slice(begin, all.length - end).join(''), differs: true },
    { text: all.slice(all.length - end).join(''), differs: false },
  ].filter(({ text }) => text !== '');
}
