import { type ASTNode, Environment, Optional } from '@marcbachmann/cel-js';
import { bytesToBase64, type Json, objectOf } from '../json/json.js';
import { linearPattern } from '../text/pattern.js';
import { spend, withinBudget } from './budget.js';
import { meter } from './meter.js';
import { speaksOfNumbersAlone, withLooseNumbers } from './numbers.js';
import { countTypes } from './type-size.js';

/** What expressions may see. */
export const VARIABLES = ['input', 'steps', 'caller', 'session', 'run', 'clock', 'item', 'index', 'row'] as const;
export type Variable = (typeof VARIABLES)[number];

/** Bounds on one expression; together with CEL's lack of loops they bound the work of one evaluation. */
const LIMITS = { maxAstNodes: 2000, maxDepth: 60, maxListElements: 1000, maxMapEntries: 1000, maxCallArguments: 16 };

const ARITHMETIC: Record<string, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '%': (a, b) => a % b,
};

/** Goes through the numbers of a list. Handing them over as arguments would fill the stack. */
function fold(list: unknown, apply: (sum: number, value: number) => number, from: number): number {
  let sum = from;
  for (const value of list as unknown[]) sum = apply(sum, Number(value));
  spend((list as unknown[]).length >> 1);
  return sum;
}
const total = (list: unknown) => fold(list, (sum, value) => sum + value, 0);

/** Concatenation. The size of the result is counted before it is created. */
function join(list: unknown, between: string): string {
  const texts = list as string[];
  spend(
    (fold(
      texts.map((text) => text.length),
      (sum, value) => sum + value,
      0,
    ) +
      between.length * texts.length) >>
      4,
  );
  return texts.join(between);
}

/**
 * Creates a CEL environment in which JSON numbers and integer literals mix freely, `matches` takes linear time, and
 * lists have `sum`, `avg`, `min` and `max`. It declares no variables.
 * @returns a new environment; what is registered on it stays with it
 */
export function baseEnvironment(): Environment {
  const environment = new Environment({
    homogeneousAggregateLiterals: false,
    enableOptionalTypes: true,
    limits: LIMITS,
  });
  for (const [operator, apply] of Object.entries(ARITHMETIC)) {
    const handler = (a: unknown, b: unknown) => apply(Number(a), Number(b));
    environment.registerOperator(`double ${operator} int: double`, handler);
    environment.registerOperator(`int ${operator} double: double`, handler);
  }
  environment.registerOperator('double % double: double', (a: number, b: number) => a % b);
  environment.registerOperator('double == int: bool', (a: unknown, b: unknown) => Number(a) === Number(b));
  environment.registerFunction('list.sum(): double', total);
  environment.registerFunction('list.avg(): double', (list: unknown) => total(list) / (list as unknown[]).length);
  environment.registerFunction('list.min(): double', (list: unknown) => fold(list, Math.min, Number.POSITIVE_INFINITY));
  environment.registerFunction('list.max(): double', (list: unknown) => fold(list, Math.max, Number.NEGATIVE_INFINITY));
  environment.registerFunction('string.like(string): bool', (text: string, pattern: string) => {
    spend(text.length << 3);
    return linearPattern(pattern).test(text);
  });
  environment.registerFunction('list<string>.joined(): string', (list: unknown) => join(list, ''));
  environment.registerFunction('list<string>.joined(string): string', join);
  environment.registerFunction('urlPart(string): string', (text: string) => encodeURIComponent(text));
  for (const [start, end] of [
    ['double', 'int'],
    ['int', 'double'],
    ['double', 'double'],
  ])
    environment.registerFunction(
      `string.substring(${start}, ${end}): string`,
      (text: string, from: unknown, to: unknown) => text.slice(Number(from), Number(to)),
    );
  environment.registerFunction('string.substring(double): string', (text: string, from: number) => text.slice(from));
  environment.registerFunction('string.indexOf(string, double): int', (text: string, part: string, from: number) =>
    BigInt(text.indexOf(part, from)),
  );
  environment.registerFunction('string.lastIndexOf(string, double): int', (text: string, part: string, from: number) =>
    BigInt(text.lastIndexOf(part, from)),
  );
  environment.registerFunction(
    'string.split(string, double): list<string>',
    (text: string, between: string, most: number) => {
      const parts = text.split(between);
      return most < 0 || parts.length <= most
        ? parts
        : [...parts.slice(0, most - 1), parts.slice(most - 1).join(between)];
    },
  );
  environment.registerFunction('string.lower(): string', (text: string) => text.toLowerCase());
  environment.registerFunction('string.upper(): string', (text: string) => text.toUpperCase());
  return environment;
}

/** An expression made ready to be evaluated many times. */
export interface Expression {
  evaluate(scope: object): unknown;
}

/** Reads an expression so that it counts its work, and nothing in it takes more than linear time. @throws ParseError */
export function parseExpression(environment: Environment, expression: string): Expression {
  const first = environment.parse(expression);
  const { loops } = meter(first.ast);
  // The library looks at the types before the first evaluation: it is done now, and counted beforehand. Only literals have
  // a type before there are values.
  const checkOf = ({ ast, check }: { ast: ASTNode; check(): ReturnType<Environment['check']> }) =>
    withinBudget(
      () => {
        if (loops) countTypes(ast);
        return check();
      },
      { guarded: loops },
    );
  const checked = loops || /\d/.test(expression) ? checkOf(first) : null;
  if (!checked || checked.valid || !speaksOfNumbersAlone(checked.error)) return { evaluate: (scope) => first(scope) };
  const loose = environment.parse(withLooseNumbers(expression, first.ast));
  meter(loose.ast);
  if (loops) checkOf(loose);
  return { evaluate: (scope) => loose(scope) };
}

/** Checks the types of an expression in which whole numbers and others may meet. */
/** @throws OverBudget where its types are too large */
export function checkMixed(environment: Environment, expression: string): ReturnType<Environment['check']> {
  if (/\bbind\b/.test(expression)) countTypes(environment.parse(expression).ast);
  const first = environment.check(expression);
  if (first.valid || !speaksOfNumbersAlone(first.error)) return first;
  return environment.check(withLooseNumbers(expression, environment.parse(expression).ast));
}

/** Represents a missing value. */
export const MISSING: unique symbol = Symbol('missing');

/** A CEL value as JSON: whole numbers as numbers, moments as RFC 3339 text, bytes as base64; or MISSING. */
export function fromCel(value: unknown): Json | typeof MISSING {
  if (value === undefined) return MISSING;
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return value;
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new RangeError(`evaluates to ${value}, which JSON cannot represent`);
    return value;
  }
  if (typeof value === 'bigint') {
    if (value > Number.MAX_SAFE_INTEGER || value < Number.MIN_SAFE_INTEGER)
      throw new RangeError('evaluates to an integer beyond 2^53 - 1');
    return Number(value);
  }
  if (value instanceof Optional) return value.hasValue() ? fromCel(value.value()) : MISSING;
  if (value instanceof Date) return value.toISOString();
  if (value instanceof Uint8Array) return bytesToBase64(value);
  if (Array.isArray(value) || value instanceof Set) {
    const items: Json[] = [];
    for (const item of value) items.push(present(fromCel(item)));
    spend(8 + items.length);
    return items;
  }
  const entries = value instanceof Map ? [...value] : Object.entries(value as object);
  spend(8 + 2 * entries.length);
  return objectOf(entries.map(([key, item]) => [String(key), present(fromCel(item))]));
}

const present = (value: Json | typeof MISSING): Json => (value === MISSING ? null : value);
