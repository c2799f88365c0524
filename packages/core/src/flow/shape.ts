import type { z } from 'zod';
import type { Mistake } from '../errors/errors.js';
import { holdsExpression } from '../expression/cut.js';
import { pointer, preview, valueAt } from '../json/json.js';
import { A_TYPE } from '../json/type-names.js';
import { didYouMean } from '../text/suggest.js';

type Issue = z.core.$ZodIssue;

/** Maximum number of reported mistakes. */
const MOST = 100;

/**
 * Collects mistakes of several things up to a limit.
 * @param things to look at, in order
 * @param of returns the mistakes of one
 * @returns a hundred mistakes at most
 */
export function firstMistakes<T, M extends Mistake>(things: Iterable<T>, of: (thing: T) => Iterable<M>): M[] {
  const first: M[] = [];
  for (const thing of things) for (const mistake of of(thing)) if (first.push(mistake) >= MOST) return first;
  return first;
}

/** Whether a value will only be known at run time, or holds a part that will. */
function awaitsValue(value: unknown): boolean {
  if (typeof value === 'string') return holdsExpression(value);
  return typeof value === 'object' && value !== null && Object.values(value).some(awaitsValue);
}

/**
 * Converts Zod issues to located mistakes.
 * @param error of Zod
 * @param value that was parsed
 * @param prefix path of the value in its document
 * @param options `awaiting`: values with expressions are not checked yet; `known`: valid names for suggestions, or the
 *   schema that has them
 * @returns mistakes with JSON Pointers and suggestions
 */
export function mistakesOf(
  error: z.core.$ZodError,
  value: unknown,
  prefix: PropertyKey[] = [],
  options: { awaiting?: boolean; known?: string[] | z.ZodType } = {},
): Mistake[] {
  const { known = [] } = options;
  const hint = (issue: Issue) => {
    if (Array.isArray(known)) return (key: string) => didYouMean(key, known);
    const part = partOf(known, issue.path);
    return (key: string) => misplaced(key, valueAt(value, issue.path), part) ?? didYouMean(key, knownKeys(part));
  };
  const of = (issue: Issue) => fromIssue(issue, value, prefix, options.awaiting ?? false, hint(issue));
  return firstMistakes(error.issues, of);
}

function fromIssue(
  issue: Issue,
  value: unknown,
  prefix: PropertyKey[],
  awaiting: boolean,
  hintFor: (key: string) => string = () => '',
): Mistake[] {
  const parts = [...prefix, ...issue.path];
  const at = pointer(parts);
  const here = valueAt(value, issue.path);
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.slice(0, MOST).map((key) => ({
      at: pointer([...parts, key]),
      message: `"${key}" is not allowed here`,
      hint: hintFor(key) || 'Remove it, or look it up in the reference.',
    }));
  }
  // What an expression will supply is held against the kind when it is there.
  if (awaiting && here !== undefined && awaitsValue(here) && !isCertain(issue, here)) return [];
  if (issue.code === 'invalid_union') return fromUnion(issue, value, prefix, awaiting, at);
  const name = `"${String(parts.at(-1) ?? 'the document')}"`;
  if (issue.code === 'invalid_type') {
    if (here === undefined) return [{ at, message: `${name} is missing`, missing: true }];
    return [{ at, message: `${name} must be ${wanted(issue.expected)}, not ${show(here)}` }];
  }
  if (issue.code === 'invalid_value') {
    const allowed = issue.values.map((allowed) => JSON.stringify(allowed)).join(', ');
    if (here === undefined)
      return [
        {
          at,
          message: `${name} is missing`,
          missing: true,
          hint: `The value must be ${issue.values.length > 1 ? 'one of ' : ''}${allowed}.`,
        },
      ];
    const near = typeof here === 'string' ? didYouMean(here, issue.values.map(String)) : undefined;
    return [
      {
        at,
        message: `${name} must be ${issue.values.length > 1 ? 'one of ' : ''}${allowed}, not ${show(here)}`,
        ...(near && { hint: near }),
      },
    ];
  }
  if (issue.code === 'invalid_key')
    return [{ at, message: `The name ${name} ${issue.issues[0]?.message ?? 'is not allowed'}` }];
  if (issue.code === 'too_small' || issue.code === 'too_big') {
    const limit = issue.code === 'too_small' ? issue.minimum : issue.maximum;
    const unit = issue.origin === 'string' ? (limit === 1 ? ' character' : ' characters') : '';
    const long = issue.origin === 'string' || issue.origin === 'array' ? ' long' : '';
    const bound = `at ${issue.code === 'too_small' ? 'least' : 'most'} ${limit}${unit}${long}`;
    return [
      {
        at,
        ...(isEmpty(here) && { missing: true as const }),
        message: `${name} must be ${bound}`,
      },
    ];
  }
  // The schema describes allowed values; the value tells that none matches.
  return [{ at, message: `${name} ${issue.message}`, ...(isEmpty(here) && { missing: true as const }) }];
}

/** Whether an issue holds for every value of the embedded expressions. The type of a container is known. */
const isCertain = ({ code }: Issue, value: unknown): boolean =>
  typeof value === 'object' && (code === 'invalid_type' || code === 'invalid_union');

/** Where a name belongs that another of several ways knows, or null. */
function misplaced(key: string, here: unknown, schema: z.ZodType): string | null {
  const { options } = schema as unknown as Inside;
  if (!options || typeof here !== 'object' || here === null || !knownKeys(schema).includes(key)) return null;
  const others = Object.keys(here).filter((one) => one !== key);
  const beside = others[0] === undefined ? '' : ` beside "${others[0]}"`;
  const own = options.find(
    (way) => others.every((one) => knownKeys(way).includes(one)) && !knownKeys(way).includes(key),
  );
  const { shape = {} } = (own ?? {}) as Inside;
  const under = Object.keys(shape).find((name) => knownKeys(partOf(shape[name]!, ['any'])).includes(key));
  return under ? `Move it to "${under}", under the name it refers to.` : `The value is not allowed${beside}.`;
}

/** Whether something was begun and nothing filled in yet. */
const isEmpty = (value: unknown): boolean =>
  value === undefined ||
  value === '' ||
  (typeof value === 'object' && value !== null && Object.keys(value).length === 0);

/** Of the alternatives of a union, the one that fits best speaks. */
function fromUnion(
  issue: Extract<Issue, { code: 'invalid_union' }>,
  value: unknown,
  prefix: PropertyKey[],
  awaiting: boolean,
  at: string,
): Mistake[] {
  const base = valueAt(value, issue.path);
  if (base === undefined) return [{ at, message: `"${at.split('/').at(-1)}" is missing`, missing: true }];
  const { strangers, known } = namesIn(issue.errors, base);
  if (known.length > 0 && isEmpty(base))
    return [{ at, message: `"${at.split('/').at(-1)}" is empty`, hint: didYouMean('', known), missing: true }];
  if (strangers.length > 0)
    return strangers.slice(0, MOST).map((key) => ({
      at: `${at}${pointer([key])}`,
      message: `"${key}" is not allowed here`,
      hint: didYouMean(
        key,
        known.filter((name) => name !== key),
      ),
    }));
  const ways = issue.errors.map((issues) =>
    issues.flatMap((inner) => fromIssue(inner, base, [...prefix, ...issue.path], awaiting)),
  );
  if (ways.length > 0 && ways.some((way) => way.length === 0)) return [];
  const nearest = ways
    .filter((way) => way.some((mistake) => mistake.at.length > at.length))
    .sort((a, b) => a.length - b.length)[0];
  if (nearest) return nearest;
  const options = 'options' in issue ? (issue.options as unknown[] | undefined) : undefined;
  const hint = options?.length ? `Known: ${options.map(String).join(', ')}.` : undefined;
  return [{ at, message: `"${at.split('/').at(-1)}" does not match any of its allowed forms`, ...(hint && { hint }) }];
}

/** The names of an object that none of several ways knows, and those that the ways want. */
function namesIn(ways: readonly (readonly Issue[])[], value: unknown): { strangers: string[]; known: string[] } {
  const own = typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.keys(value) : null;
  // A way that takes no object at all has nothing to say of its names.
  const takesObjects = (one: Issue) => one.path.length > 0 || one.code === 'unrecognized_keys';
  const objects = ways.filter((issues) => issues.every(takesObjects));
  if (own === null || objects.length < 2) return { strangers: [], known: [] };
  const refuses = (issues: readonly Issue[], key: string) =>
    issues.some((one) => one.code === 'unrecognized_keys' && one.path.length === 0 && one.keys.includes(key));
  const wanted = objects.flatMap((issues) => issues.flatMap(({ path }) => (path.length === 1 ? String(path[0]) : [])));
  return {
    strangers: own.filter((key) => objects.every((issues) => refuses(issues, key))),
    known: [...new Set(wanted)],
  };
}

const WANTED: Record<string, string> = { ...A_TYPE, record: 'an object', int: 'an integer' };
const wanted = (type: string) => WANTED[type] ?? `a ${type}`;

const show = (value: unknown) => preview(value, 60);

/** The parts of a schema's internals that are used here. */
interface Inside {
  shape?: Record<string, z.ZodType>;
  options?: z.ZodType[];
  element?: z.ZodType;
  valueType?: z.ZodType;
  unwrap?: () => z.ZodType;
}

/** The part of a schema that stands at a path, as far as one leads there. */
function partOf(schema: z.ZodType, path: readonly PropertyKey[]): z.ZodType {
  const inside = schema as unknown as Inside;
  if (inside.unwrap && !inside.element) return partOf(inside.unwrap(), path);
  const [first, ...rest] = path;
  if (first === undefined) return schema;
  const next = inside.element ?? inside.valueType ?? inside.shape?.[String(first)];
  if (next) return partOf(next, rest);
  const way = inside.options?.find((one) => partOf(one, path) !== one);
  return way ? partOf(way, path) : schema;
}

/** The property names that an object schema knows, for "did you mean". */
export function knownKeys(schema: z.ZodType): string[] {
  const { shape, options } = schema as unknown as Inside;
  if (shape) return Object.keys(shape);
  return options ? [...new Set(options.flatMap(knownKeys))] : [];
}
