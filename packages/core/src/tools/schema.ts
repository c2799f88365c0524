import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import { Ajv2020 } from 'ajv/dist/2020.js';
import formats from 'ajv-formats';
import { RE2JS } from 're2js';
import type { Mistake } from '../errors.js';
import { isObject, type Json, type JsonSchema, pointerParts, valueAt } from '../json.js';
import { didYouMean } from '../suggest.js';

/** A pattern in linear time: one built to be slow must not hold up everything else. */
const linear = Object.assign(
  (pattern: string) => {
    const compiled = RE2JS.compile(pattern);
    return { test: (text: string) => compiled.matcher(text).find() };
  },
  { code: 'linear' },
);
const OPTIONS = {
  code: { regExp: linear },
  strict: false,
  allErrors: true,
  verbose: true,
  validateSchema: true,
} as const;
const newest = new Ajv2020(OPTIONS);
const draft07 = new Ajv(OPTIONS);
for (const ajv of [newest, draft07]) formats.default(ajv);

const compiled = new WeakMap<object, ValidateFunction>();
const byText = new Map<string, ValidateFunction>();
/** Compiled schemas are kept by their text as well, since the same one is often read anew; the oldest leave first. */
const KEPT = 1000;

function validator(schema: JsonSchema): ValidateFunction {
  const known = compiled.get(schema);
  if (known) return known;
  const text = JSON.stringify(schema);
  let validate = byText.get(text);
  if (!validate) {
    // A schema's own $id would be refused on its second use, and nothing here refers to one.
    const { $id: _, $schema, ...anonymous } = schema;
    validate = (String($schema).includes('draft-07') ? draft07 : newest).compile(anonymous);
    if (byText.size >= KEPT) byText.delete(byText.keys().next().value!);
    byText.set(text, validate);
  }
  compiled.set(schema, validate);
  return validate;
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

/**
 * Holds a value against a JSON Schema (2020-12, or draft 7 where it says so), without changing it. Empty when it fits.
 * A schema that cannot be used is somebody else's mistake: whoever wrote it is then left to judge the value.
 */
export function validate(schema: JsonSchema, value: Json): Mistake[] {
  let check: ValidateFunction;
  try {
    check = validator(schema);
  } catch {
    return [];
  }
  if (check(value)) return [];
  return dedupe((check.errors ?? []).map((error) => inWords(error, value)));
}

const dedupe = (mistakes: Mistake[]) =>
  mistakes.filter(
    (one, index) => mistakes.findIndex((other) => other.at === one.at && other.message === one.message) === index,
  );

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
      const known = isObject(error.parentSchema?.properties) ? Object.keys(error.parentSchema.properties) : [];
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
      return { at: error.instancePath, message: `${name} ${error.message ?? 'does not fit'}` };
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

function show(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > 60 ? `${text.slice(0, 57)}…` : text;
}

/** Several mistakes as one sentence. */
export function sentence(mistakes: readonly Mistake[]): string {
  return mistakes.map((mistake) => mistake.message + (mistake.hint ? ` (${mistake.hint})` : '')).join('; ');
}
