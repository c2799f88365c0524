import type { ASTNode } from '@marcbachmann/cel-js';
import { spend } from './budget.js';

/** The part of the library's evaluator that comparing needs. */
interface Evaluator {
  debugType(value: unknown): unknown;
  registry: {
    findBinaryOverload(
      operator: '==',
      left: unknown,
      right: unknown,
    ): { handler(a: unknown, b: unknown, ast: ASTNode, evaluator: Evaluator): boolean } | false;
  };
}
export type Handle = (left: unknown, right: unknown, ast: ASTNode, evaluator: Evaluator) => unknown;

type Kind = 'list' | 'map' | 'other';
function kindOf(value: object): Kind {
  if (Array.isArray(value) || value instanceof Set) return 'list';
  if (value instanceof Map) return 'map';
  const prototype = Object.getPrototypeOf(value) as unknown;
  return prototype === Object.prototype || prototype === null ? 'map' : 'other';
}
const isObject = (value: unknown): value is object => typeof value === 'object' && value !== null;

/**
 * Compares two values as CEL does, counting each comparison: values that hold one another many times would take for ever.
 * @throws OverBudget
 */
function isEqual(a: unknown, b: unknown, ast: ASTNode, evaluator: Evaluator): boolean {
  spend(1);
  if (a === b) return true;
  if (typeof a === 'bigint' || typeof a === 'number')
    // biome-ignore lint/suspicious/noDoubleEquals: 1 and 1.0 are equal
    return (typeof b === 'bigint' || typeof b === 'number') && a == b;
  if (!isObject(a) || !isObject(b)) return false;
  const kind = kindOf(a);
  if (kind !== kindOf(b)) return false;
  if (kind === 'list') return areListsEqual(a as Iterable<unknown>, b as Iterable<unknown>, ast, evaluator);
  if (kind === 'map') return areMapsEqual(a, b, ast, evaluator);
  // Moments, durations, bytes and their like: flat, and compared by the library.
  const [left, right] = [evaluator.debugType(a), evaluator.debugType(b)];
  if (left !== right) return false;
  const overload = evaluator.registry.findBinaryOverload('==', left, right);
  return overload ? overload.handler(a, b, ast, evaluator) : false;
}

function areListsEqual(a: Iterable<unknown>, b: Iterable<unknown>, ast: ASTNode, evaluator: Evaluator): boolean {
  const [left, right] = [Array.isArray(a) ? a : [...a], Array.isArray(b) ? b : [...b]];
  return left.length === right.length && left.every((item, at) => isEqual(item, right[at], ast, evaluator));
}

function areMapsEqual(a: object, b: object, ast: ASTNode, evaluator: Evaluator): boolean {
  const entries = a instanceof Map ? [...a] : Object.entries(a);
  const size = b instanceof Map ? b.size : Object.keys(b).length;
  spend(entries.length);
  if (entries.length !== size) return false;
  return entries.every(([key, value]) => {
    if (b instanceof Map) return b.has(key) && isEqual(value, b.get(key), ast, evaluator);
    return Object.hasOwn(b, key) && isEqual(value, (b as Record<string, unknown>)[key], ast, evaluator);
  });
}

/** Counts what the library looks through to tell the type of a value. */
function countInside(value: unknown): void {
  spend(1);
  if (!isObject(value)) return;
  if (Array.isArray(value) || value instanceof Set) for (const item of value) countInside(item);
  else if (value instanceof Map) for (const item of value.values()) countInside(item);
  else if (kindOf(value) === 'map') for (const item of Object.values(value)) countInside(item);
}

/** Comparisons of our own in place of the library's, by operator. @param library what it would do, for all that is not deep */
export const COMPARE: Record<string, (library: Handle) => Handle> = {
  '==': (library) => (left, right, ast, evaluator) =>
    areAlike(left, right) ? isEqual(left, right, ast, evaluator) : asBefore(library, left, right, ast, evaluator),
  '!=': (library) => (left, right, ast, evaluator) =>
    areAlike(left, right) ? !isEqual(left, right, ast, evaluator) : asBefore(library, left, right, ast, evaluator),
  in: (library) => (left, right, ast, evaluator) => {
    if (Array.isArray(right)) return right.some((item) => isEqual(left, item, ast, evaluator));
    if (right instanceof Set) return right.has(left) || [...right].some((item) => isEqual(left, item, ast, evaluator));
    return asBefore(library, left, right, ast, evaluator);
  },
};

/** Whether both are lists, or both are maps. */
function areAlike(left: unknown, right: unknown): boolean {
  if (!isObject(left) || !isObject(right)) return false;
  const kind = kindOf(left);
  return kind !== 'other' && kind === kindOf(right);
}

function asBefore(library: Handle, left: unknown, right: unknown, ast: ASTNode, evaluator: Evaluator): unknown {
  countInside(left);
  countInside(right);
  return library(left, right, ast, evaluator);
}
