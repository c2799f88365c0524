import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import { Ajv2020 } from 'ajv/dist/2020.js';
import formats from 'ajv-formats';
import traverse from 'json-schema-traverse';
import { LRUCache } from 'lru-cache';
import type { Mistake } from '../errors/errors.js';
import { OverBudget, spend, withinBudget } from '../expression/budget.js';
import {
  isLong,
  isObject,
  type Json,
  type JsonSchema,
  ownOf,
  pointerParts,
  preview,
  setOwn,
  valueAt,
} from '../json/json.js';
import { linearPattern } from '../text/pattern.js';
import { didYouMean } from '../text/suggest.js';

/** A pattern in linear time: one built to be slow must not hold up everything else. */
const linear = Object.assign(
  (pattern: string) => {
    const compiled = linearPattern(pattern);
    return {
      test: (text: string) => {
        spend(text.length << 3);
        return compiled.test(text);
      },
      // The compiler tells patterns apart by this: without it, the first one it meets would stand for all.
      toString: () => pattern,
    };
  },
  { code: 'linear' },
);
const OPTIONS = {
  code: { regExp: linear },
  strict: false,
  verbose: true,
  ownProperties: true,
} as const;

const VISIT = 'x-pindro-visit';
function visit(): boolean {
  spend(1);
  return true;
}

/**
 * Compilers of the two drafts; one set finds every mistake, the other stops at the first. What the second is given was
 * accepted by the first: checking the schema again would compile the one for schemas, which takes a tenth of a second.
 */
const compilers = (allErrors: boolean) => {
  const options = { ...OPTIONS, allErrors, validateSchema: allErrors, logger: false as const };
  const newest = new Ajv2020(options);
  const draft07 = new Ajv(options);
  for (const ajv of [newest, draft07]) {
    formats.default(ajv);
    // The library's own compares each item with each other.
    ajv.addKeyword({ keyword: VISIT, validate: visit, errors: false });
    ajv.removeKeyword('uniqueItems');
    ajv.addKeyword({ keyword: 'uniqueItems', type: 'array', schemaType: 'boolean', validate: isUnique, errors: false });
  }
  return { newest, draft07 };
};
const every = compilers(true);
const first = compilers(false);

/** Values whose numbers differ, differ; only those with the same number are written out to be compared. */
function isUnique(wanted: boolean, list: Json[]): boolean {
  if (!wanted) return true;
  const alone = new Map<number, Json>();
  const alike = new Map<number, Set<string>>();
  for (const item of list) {
    const number = numberOf(item);
    if (!alone.has(number)) alone.set(number, item);
    else {
      const texts = alike.get(number) ?? new Set([canonical(alone.get(number)!)]);
      alike.set(number, texts);
      const text = canonical(item);
      if (texts.has(text)) return false;
      texts.add(text);
    }
  }
  return true;
}

/** The same number (32 bits) for values that JSON Schema takes for equal, and mostly another one for others. */
function numberOf(value: Json): number {
  if (typeof value === 'string') return ofText(value);
  if (typeof value === 'number') return Math.imul((value % 2_147_483_647) | 0, 0x9e3779b1) ^ ((value % 1) * 2 ** 31);
  if (typeof value !== 'object' || value === null) return value === null ? 1 : value ? 2 : 3;
  if (Array.isArray(value)) return value.reduce<number>((sum, item) => (Math.imul(sum, 31) + numberOf(item)) | 0, 4);
  let sum = 5;
  // Added up, so that the order of names says nothing.
  for (const name of Object.keys(value)) sum = (sum + Math.imul(ofText(name) | 1, numberOf(value[name]!) + 7)) | 0;
  return sum;
}

function ofText(text: string): number {
  let sum = 6;
  for (let at = 0; at < text.length; at++) sum = (Math.imul(sum, 31) + text.charCodeAt(at)) | 0;
  return sum;
}

/** The same text for values that JSON Schema takes for equal (2020-12, core, section 4.2.2). */
function canonical(value: Json): string {
  if (typeof value !== 'object' || value === null) return JSON.stringify(value);
  if (Array.isArray(value)) return `[${value.map(canonical).join()}]`;
  const names = Object.keys(value);
  // Most items are alike and flat, and are written as they are.
  if (names.length < 2 && typeof value[names[0]!] !== 'object') return JSON.stringify(value);
  names.sort();
  return `{${names.map((name) => `${JSON.stringify(name)}:${canonical(value[name]!)}`).join()}}`;
}

/** The schema with each of its parts counting how often it is visited. */
function counting(schema: JsonSchema): JsonSchema {
  const copy = structuredClone(schema);
  traverse(copy, { allKeys: false, cb: (part) => void (isObject(part) && setOwn(part, VISIT, true)) });
  return copy;
}

interface Validator {
  every: ValidateFunction;
  first(): ValidateFunction;
}
const compiled = new WeakMap<object, Validator>();
/** Compiled schemas are also cached by text, because the same one is often parsed again. */
const byText = new LRUCache<string, Validator>({ max: 1000 });

function validator(schema: JsonSchema): Validator {
  const known = compiled.get(schema);
  if (known) return known;
  const text = JSON.stringify(schema);
  let made = byText.get(text);
  if (!made) {
    // A schema's own $id would be refused on its second use, and nothing here refers to one.
    const { $id: _, $schema, ...anonymous } = schema;
    const draft = String($schema).includes('draft-07') ? 'draft07' : 'newest';
    let stopping: ValidateFunction | undefined;
    made = {
      every: every[draft].compile(anonymous),
      first: () => (stopping ??= first[draft].compile(counting(anonymous))),
    };
    byText.set(text, made);
  }
  compiled.set(schema, made);
  return made;
}

/** Why a JSON Schema itself is not usable, or undefined. */
export function schemaFault(schema: JsonSchema): string | undefined {
  try {
    validator(schema);
    return undefined;
  } catch (error) {
    return (error as Error).message.replace(/^schema is invalid: /, '');
  }
}

/** Maximum number of reported mistakes. */
export const MOST_MISTAKES = 20;
/** For a value whose JSON is longer than this, only the first mistake is reported. */
const LONG = 16 * 1024;
/** Maximum number of visited parts when validating a long value; a recursive schema may not terminate. */
const VISITS = 4_000_000;

/**
 * Validates a value against a JSON Schema (2020-12, or draft 7 if it says so) without changing it. Returns up to
 * {@link MOST_MISTAKES} mistakes, of a long value only the first. Reports nothing for an unusable schema, because
 * its author must fix that.
 * @param schema JSON Schema
 * @param value to validate
 * @returns located mistakes
 */
export function validate(schema: JsonSchema, value: Json): Mistake[] {
  let known: Validator;
  try {
    known = validator(schema);
  } catch {
    return [];
  }
  if (!isLong(value, LONG)) return known.every(value) ? [] : mistakesFrom(known.every, value);
  const check = known.first();
  try {
    return withinBudget(() => check(value), { work: VISITS, guarded: true }) ? [] : mistakesFrom(check, value);
  } catch (error) {
    if (!(error instanceof OverBudget)) throw error;
    return [{ at: '', message: 'validating the value takes too much work', hint: 'Send less at once.' }];
  }
}

function mistakesFrom({ errors }: ValidateFunction, value: Json): Mistake[] {
  const mistakes = new Map<string, Mistake>();
  for (const error of errors ?? []) {
    const mistake = inWords(error, value);
    mistakes.set(`${mistake.at} ${mistake.message}`, mistake);
    if (mistakes.size >= MOST_MISTAKES) break;
  }
  return [...mistakes.values()];
}

/** A schema violation as a person or a model would say it. */
function inWords(error: ErrorObject, root: Json): Mistake {
  const parts = pointerParts(error.instancePath);
  const params = error.params as Record<string, unknown>;
  const name = parts.length > 0 ? `"${parts.join('.')}"` : 'the value';
  const got = show(valueAt(root, parts));
  const inside = (property: string) => ({
    at: `${error.instancePath}/${property}`,
    label: `"${[...parts, property].join('.')}"`,
  });
  switch (error.keyword) {
    case 'required': {
      const { at, label } = inside(String(params.missingProperty));
      return { at, message: `${label} is missing`, hint: describeProperty(error, String(params.missingProperty)) };
    }
    case 'additionalProperties':
    case 'unevaluatedProperties': {
      const property = String(params.additionalProperty ?? params.unevaluatedProperty);
      const { at, label } = inside(property);
      const known = isObject(error.parentSchema?.properties)
        ? Object.keys(error.parentSchema.properties).filter((name) => name !== property)
        : [];
      return { at, message: `${label} is not an argument here`, hint: didYouMean(property, known) };
    }
    case 'enum': {
      const allowed = params.allowedValues as Json[];
      return { at: error.instancePath, message: `${name} must be one of ${allowed.map(show).join(', ')}, not ${got}` };
    }
    case 'const':
      return { at: error.instancePath, message: `${name} must be ${show(params.allowedValue as Json)}, not ${got}` };
    case 'type':
      return { at: error.instancePath, message: `${name} must be ${article(String(params.type))}, not ${got}` };
    case 'format':
      return {
        at: error.instancePath,
        message: `${name} must be a ${params.format}${example(String(params.format))}, not ${got}`,
      };
    case 'minimum':
    case 'maximum':
    case 'exclusiveMinimum':
    case 'exclusiveMaximum':
      return {
        at: error.instancePath,
        message: `${name} must be ${COMPARE[String(params.comparison)]} ${params.limit}, not ${got}`,
      };
    default:
      return { at: error.instancePath, message: `${name} ${error.message ?? 'is invalid'}` };
  }
}

const COMPARE: Record<string, string> = { '>=': 'at least', '<=': 'at most', '>': 'more than', '<': 'less than' };
const EXAMPLES: Record<string, string> = {
  date: '2027-02-14',
  'date-time': '2027-02-14T09:30:00Z',
  time: '09:30:00Z',
  email: 'name@example.org',
  uri: 'https://example.org/',
};
const example = (format: string) => (EXAMPLES[format] ? ` such as ${EXAMPLES[format]}` : '');
const article = (type: string) => (/^[aeiou]/.test(type) ? `an ${type}` : type === 'null' ? 'null' : `a ${type}`);

function describeProperty(error: ErrorObject, property: string): string | undefined {
  const schema = (error.parentSchema?.properties as Record<string, JsonSchema> | undefined)?.[property];
  return typeof schema?.description === 'string' ? schema.description : undefined;
}

const show = (value: unknown) => preview(value, 60);

/**
 * Joins several mistakes to one sentence.
 * @param mistakes of a value
 * @returns the sentence without a full stop
 */
export function sentence(mistakes: readonly Mistake[]): string {
  return mistakes.map((mistake) => mistake.message + (mistake.hint ? ` (${mistake.hint})` : '')).join('; ');
}

/** Returns a copy of a value with the defaults of its schema for missing fields. */
export function withDefaults(schema: JsonSchema, value: Json): Json {
  if (!isObject(value) || !isObject(schema.properties)) return value;
  let filled = value;
  for (const [name, property] of Object.entries(schema.properties)) {
    if (!isObject(property)) continue;
    const own = ownOf(value, name);
    const now = own === undefined ? ownOf(property, 'default') : withDefaults(property as JsonSchema, own);
    if (now === own || now === undefined) continue;
    if (filled === value) filled = { ...value };
    setOwn(filled, name, structuredClone(now));
  }
  return filled;
}
