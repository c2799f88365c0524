import { EvaluationError } from '@marcbachmann/cel-js';
import { PindroError } from '../errors/errors.js';
import { isObject, type Json, type JsonObject, pointer, setOwn } from '../json/json.js';
import { bulk, OverBudget, spend, withinBudget } from './budget.js';
import { cutTemplate } from './cut.js';
import { baseEnvironment, type Expression, fromCel, MISSING, parseExpression, VARIABLES } from './environment.js';
import { summary } from './plain-words.js';

/** What expressions see while a flow runs. */
export type Scope = { [name: string]: unknown };

/** Reason why a field is empty. */
export interface Missing {
  parts: PropertyKey[];
  expression: string;
  why: string;
  /** Set if nothing can be omitted: an item of a list. */
  required?: boolean;
}

export interface Filled {
  value: Json | undefined;
  missing: Missing[];
}

const runtime = (() => {
  const environment = baseEnvironment();
  // Variables in addition to those of a flow: arguments and result of an agent's call, and stored values.
  for (const name of [...VARIABLES, 'args', 'result', 'kept', 'error']) environment.registerVariable(name, 'dyn');
  return environment;
})();

/** Codes with which the library says that a value is not there, as opposed to wrong. */
const ABSENT = new Set(['no_such_key', 'index_out_of_bounds', 'unknown_variable']);

type Evaluate = (scope: Scope, missing: Missing[]) => Json | typeof MISSING;

/** A value with expressions, prepared for repeated evaluation. */
export class Template {
  readonly #evaluate: Evaluate;
  /** Whether there is no expression in it. */
  readonly #plain: boolean;
  readonly #at: PropertyKey[];

  /** @param at the JSON Pointer parts of the value in its document, for errors */
  constructor(value: Json, at: PropertyKey[] = []) {
    this.#at = at;
    this.#plain = !JSON.stringify(value).includes('${');
    this.#evaluate = prepare(value, at);
  }

  /** All expressions of a value share one budget. */
  #withinBudget(scope: Scope, missing: Missing[]): ReturnType<Evaluate> {
    try {
      return withinBudget(() => this.#evaluate(scope, missing));
    } catch (error) {
      if (!(error instanceof OverBudget)) throw error;
      const expression = 'the template';
      throw new PindroError('expression_failed', { expression, why: error.summary }, { at: pointer(this.#at) });
    }
  }

  /** Evaluates every expression. A field with a missing value is omitted and listed in `missing`. */
  fill(scope: Scope): Filled {
    const missing: Missing[] = [];
    const value = this.#plain ? this.#evaluate(scope, missing) : this.#withinBudget(scope, missing);
    return { value: value === MISSING ? undefined : value, missing };
  }

  /** Fills every expression; the whole value must be there. @throws no_value, expression_failed */
  require(scope: Scope): Json {
    const { value, missing } = this.fill(scope);
    if (value === undefined) throw noValue(missing[0]!);
    return value;
  }
}

export function noValue(missing: Missing): PindroError {
  return new PindroError(
    'no_value',
    { expression: missing.expression, why: missing.why },
    { at: pointer(missing.parts), details: { expression: missing.expression } },
  );
}

function prepare(value: Json, at: PropertyKey[]): Evaluate {
  if (typeof value === 'string') return prepareText(value, at);
  if (Array.isArray(value)) {
    const items = value.map((item, index) => prepare(item, [...at, index]));
    return (scope, missing) =>
      items.map((item) => {
        const filled = item(scope, missing);
        if (filled !== MISSING) return filled;
        missing.at(-1)!.required = true;
        return null;
      });
  }
  if (isObject(value)) {
    const entries = Object.entries(value).map(([key, item]) => [key, prepare(item, [...at, key])] as const);
    return (scope, missing) => {
      const filled: { [key: string]: Json } = {};
      for (const [key, evaluate] of entries) {
        const item = evaluate(scope, missing);
        if (item !== MISSING) setOwn(filled, key, item);
      }
      return filled;
    };
  }
  return () => value;
}

function prepareText(text: string, at: PropertyKey[]): Evaluate {
  if (!text.includes('${')) return () => text;
  const pieces = cutTemplate(text).map((piece) =>
    'literal' in piece ? piece : { ...piece, run: compile(piece.expression, at) },
  );
  if (pieces.length === 1 && 'run' in pieces[0]!) return pieces[0].run;
  return (scope, missing) => {
    let filled = '';
    for (const piece of pieces) {
      if ('literal' in piece) filled += piece.literal;
      else {
        const value = piece.run(scope, missing);
        if (value === MISSING) return MISSING;
        const text = typeof value === 'string' ? value : JSON.stringify(value);
        spend(bulk(text));
        filled += text;
      }
    }
    return filled;
  };
}

function compile(expression: string, at: PropertyKey[]): Evaluate {
  let parsed: Expression;
  try {
    parsed = parseExpression(runtime, expression);
  } catch (error) {
    throw new PindroError('expression_failed', { expression, why: summary(error) }, { at: pointer(at) });
  }
  return (scope, missing) => {
    try {
      const work = () => fromCel(evaluateIn(parsed, scope));
      const value = work();
      if (value === MISSING) missing.push({ parts: at, expression, why: 'the value is missing' });
      return value;
    } catch (error) {
      if (error instanceof EvaluationError && ABSENT.has(error.code)) {
        missing.push({ parts: at, expression, why: absence(error) });
        return MISSING;
      }
      throw new PindroError(
        'expression_failed',
        { expression, why: summary(error) },
        { at: pointer(at), details: { expression } },
      );
    }
  };
}

/** The library takes an object with a property `constructor` for one of a class; such a scope is shown to it as maps. */
function evaluateIn(parsed: Expression, scope: Scope): unknown {
  try {
    return parsed.evaluate(scope);
  } catch (error) {
    if (!(error instanceof Error) || !/Unsupported type/.test(error.message)) throw error;
    return parsed.evaluate(asMaps(scope) as Scope);
  }
}

function asMaps(value: unknown, top = true): unknown {
  if (Array.isArray(value)) return value.map((item) => asMaps(item, false));
  if (!isObject(value) || (value as unknown) instanceof Date) return value;
  const entries = Object.entries(value).map(([key, item]) => [key, asMaps(item, false)] as const);
  if (!top && Object.hasOwn(value, 'constructor')) return new Map(entries);
  return Object.fromEntries(entries);
}

function absence(error: EvaluationError): string {
  if (error.code === 'index_out_of_bounds') {
    const said = error.summary.replace(/^.*?index out of bounds, /, '');
    return `the list has no such item${said.includes('undefined') ? '' : ` (${said})`}`;
  }
  return summary(error);
}

/** What the expressions in a value read of what there is, as JSON; of the steps only those that are named. */
export function seenBy(value: Json, scope: Scope): JsonObject {
  const text = JSON.stringify(value);
  const reads = (name: string) => new RegExp(`\\b${name}\\b`).test(text);
  const seen: JsonObject = {};
  for (const name of VARIABLES) {
    if (name === 'row' || !(name in scope) || !reads(name)) continue;
    const all = scope[name] as JsonObject;
    seen[name] =
      name === 'steps' ? Object.fromEntries(Object.entries(all).filter(([step]) => reads(step))) : plain(all as Json);
  }
  return seen;
}

const plain = (value: unknown): Json =>
  isObject(value as Json)
    ? Object.fromEntries(
        Object.entries(value as object).map(([key, inner]) => [
          key,
          inner instanceof Date ? inner.toISOString() : inner,
        ]),
      )
    : (value as Json);

/**
 * Creates a function that evaluates a value for one row, next to the data.
 * @param value with expressions over `row`
 * @param seen values that the expressions read, from {@link seenBy}
 * @param at path of the value, for errors
 * @returns a function that fills the value for a row
 * @throws no_value, expression_failed
 */
export function rowFiller(value: Json, seen: JsonObject, at: PropertyKey[]): (row: JsonObject) => Json {
  const template = new Template(value, at);
  const { clock } = seen;
  const scope = isObject(clock) ? { ...seen, clock: { ...clock, now: new Date(String(clock.now)) } } : seen;
  return (row) => template.require({ ...scope, row });
}
