import { type ASTNode, Environment, Optional, type ParseResult } from '@marcbachmann/cel-js';
import { RE2JS } from 're2js';
import type { Json } from '../json.js';

/** What expressions may see. */
export const VARIABLES = ['input', 'steps', 'caller', 'session', 'run', 'clock', 'item', 'index'] as const;
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

const numbers = (list: unknown) => (list as unknown[]).map(Number);
const total = (list: unknown) => numbers(list).reduce((sum, value) => sum + value, 0);

/**
 * A CEL environment in which JSON numbers and whole-number literals mix freely, `matches` takes linear time, and lists
 * have `sum`, `avg`, `min` and `max`. It knows no variables yet.
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
  environment.registerFunction('list.avg(): double', (list: unknown) => total(list) / numbers(list).length);
  environment.registerFunction('list.min(): double', (list: unknown) => Math.min(...numbers(list)));
  environment.registerFunction('list.max(): double', (list: unknown) => Math.max(...numbers(list)));
  environment.registerFunction(`string.${LINEAR}(string): bool`, (text: string, pattern: string) =>
    RE2JS.compile(pattern).matcher(text).find(),
  );
  environment.registerFunction('urlPart(string): string', (text: string) => encodeURIComponent(text));
  environment.registerFunction('string.lower(): string', (text: string) => text.toLowerCase());
  environment.registerFunction('string.upper(): string', (text: string) => text.toUpperCase());
  return environment;
}

/** Reads an expression so that its `matches` takes linear time whatever the pattern. @throws ParseError */
export function parseExpression(environment: Environment, expression: string): ParseResult {
  const parsed = environment.parse(expression);
  if (expression.includes('matches')) redirect(parsed.ast);
  return parsed;
}

/** The library keeps its own `matches`, which backtracks; calls of it are led to ours before anything runs. */
function redirect(node: unknown): void {
  if (Array.isArray(node)) for (const item of node) redirect(item);
  else if (typeof node === 'object' && node !== null && 'op' in node) {
    const call = node as { op: string; args: unknown };
    if (call.op === 'rcall' && (call.args as unknown[])[0] === 'matches') (call.args as unknown[])[0] = LINEAR;
    redirect((node as ASTNode).args);
  }
}
const LINEAR = 'like';

/** Stands for a value that is not there. */
export const MISSING: unique symbol = Symbol('missing');

/** A CEL value as JSON: whole numbers as numbers, moments as RFC 3339 text, bytes as base64; or MISSING. */
export function fromCel(value: unknown): Json | typeof MISSING {
  if (value === undefined) return MISSING;
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return value;
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new RangeError(`came out as ${value}, which JSON cannot carry`);
    return value;
  }
  if (typeof value === 'bigint') {
    if (value > Number.MAX_SAFE_INTEGER || value < Number.MIN_SAFE_INTEGER)
      throw new RangeError('came out as a whole number beyond 2^53 - 1');
    return Number(value);
  }
  if (value instanceof Optional) return value.hasValue() ? fromCel(value.value()) : MISSING;
  if (value instanceof Date) return value.toISOString();
  if (value instanceof Uint8Array) return btoa(String.fromCharCode(...value));
  if (Array.isArray(value) || value instanceof Set) return [...value].map((item) => present(fromCel(item)));
  const entries = value instanceof Map ? [...value] : Object.entries(value as object);
  return Object.fromEntries(entries.map(([key, item]) => [String(key), present(fromCel(item))]));
}

const present = (value: Json | typeof MISSING): Json => (value === MISSING ? null : value);
