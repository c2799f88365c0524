import { A_TYPE, isObject, type Json, type JsonSchema } from '@pindro/core/browser';
import { discriminator } from './schema.js';

/** How a field is filled in. Each sort is one component in `fields/` and one line in `Field.svelte`. */
export type Shape =
  | { sort: 'text'; long: boolean; code: boolean; secret: boolean; date: boolean; names?: 'column' | 'tool' }
  | { sort: 'scalar' }
  | { sort: 'number'; whole: boolean }
  | { sort: 'yes-no' }
  | { sort: 'choice'; options: Json[] }
  | { sort: 'several'; options: Json[] }
  | { sort: 'duration' }
  | { sort: 'reference'; of: string }
  | { sort: 'group' }
  | { sort: 'list'; item: JsonSchema; names?: 'column' | 'tool' }
  | { sort: 'record'; inner: JsonSchema; names?: 'column' | 'tool' }
  | { sort: 'union'; ways: JsonSchema[] }
  | { sort: 'conditions' }
  | { sort: 'alternatives' }
  | { sort: 'branches' }
  | { sort: 'condition' }
  | { sort: 'steps' }
  | { sort: 'given'; of: 'flow' | 'tool' }
  | { sort: 'toolbox' }
  | { sort: 'rules' }
  | { sort: 'schema' }
  | { sort: 'any' };

const REFERENCES = ['flow', 'table', 'server', 'model', 'credential', 'endpoint'];

/** The shape that a schema asks for: by what it says of forms, else by what it takes. */
export function shapeOf(schema: JsonSchema): Shape {
  const form = typeof schema.form === 'string' ? schema.form : '';
  if (REFERENCES.includes(form)) return { sort: 'reference', of: form };
  return BY_FORM[form]?.(schema) ?? byType(schema);
}

const text = (more: Partial<Extract<Shape, { sort: 'text' }>> = {}): Shape => ({
  ...{ sort: 'text', long: false, code: false, secret: false, date: false },
  ...more,
});
const itemsOf = (schema: JsonSchema): JsonSchema => (isObject(schema.items) ? schema.items : {});
const innerOf = (schema: JsonSchema): JsonSchema =>
  isObject(schema.additionalProperties) ? schema.additionalProperties : {};

const BY_FORM: Record<string, (schema: JsonSchema) => Shape> = {
  duration: () => ({ sort: 'duration' }),
  long: () => text({ long: true }),
  code: () => text({ long: true, code: true }),
  column: () => text({ names: 'column' }),
  tool: () => text({ names: 'tool' }),
  columns: (schema) => ({ sort: 'list', item: itemsOf(schema), names: 'column' }),
  tools: (schema) => ({ sort: 'list', item: itemsOf(schema), names: 'tool' }),
  'by-tool': (schema) => ({ sort: 'record', inner: innerOf(schema), names: 'tool' }),
  row: (schema) => ({ sort: 'record', inner: innerOf(schema), names: 'column' }),
  conditions: () => ({ sort: 'conditions' }),
  alternatives: () => ({ sort: 'alternatives' }),
  condition: () => ({ sort: 'condition' }),
  branches: () => ({ sort: 'branches' }),
  steps: () => ({ sort: 'steps' }),
  input: () => ({ sort: 'given', of: 'flow' }),
  arguments: () => ({ sort: 'given', of: 'tool' }),
  toolbox: () => ({ sort: 'toolbox' }),
  rules: () => ({ sort: 'rules' }),
  'server-rules': () => ({ sort: 'rules' }),
  schema: () => ({ sort: 'schema' }),
  'list-value': (schema) => ({ sort: 'list', item: itemsOf(schema) }),
};

const SCALARS = ['string', 'number', 'integer', 'boolean'];

function byType(schema: JsonSchema): Shape {
  if (Array.isArray(schema.enum)) return { sort: 'choice', options: schema.enum };
  const ways = (schema.oneOf ?? schema.anyOf) as JsonSchema[] | undefined;
  if (ways && !isObject(schema.properties)) return fromWays(ways.filter((way) => way.type !== 'null'));
  // A nullable type is omitted for null.
  const types = [schema.type ?? []].flat().filter((type) => type !== 'null');
  if (types.length > 1) {
    return types.every((type) => SCALARS.includes(String(type)))
      ? { sort: 'scalar' }
      : { sort: 'union', ways: types.map((type) => ({ ...schema, type })) as JsonSchema[] };
  }
  switch (types[0]) {
    case 'boolean':
      return { sort: 'yes-no' };
    case 'integer':
      return { sort: 'number', whole: true };
    case 'number':
      return { sort: 'number', whole: false };
    case 'string':
      return text({
        secret: schema.writeOnly === true || schema.format === 'password',
        date: schema.format === 'date',
        long: Number(schema.maxLength ?? 0) > 200,
      });
    case 'array': {
      const item = itemsOf(schema);
      // Of what can be counted up, and stands once at the most, each is taken or not.
      return schema.uniqueItems === true && Array.isArray(item.enum)
        ? { sort: 'several', options: item.enum }
        : { sort: 'list', item };
    }
    case 'object':
      return isObject(schema.properties) && Object.keys(schema.properties).length > 0
        ? { sort: 'group' }
        : { sort: 'record', inner: innerOf(schema) };
    default:
      return isObject(schema.properties) ? { sort: 'group' } : { sort: 'any' };
  }
}

function fromWays(ways: JsonSchema[]): Shape {
  if (ways.length === 1) return shapeOf(ways[0]!);
  if (ways.every((way) => way.const !== undefined)) return { sort: 'choice', options: ways.map((way) => way.const!) };
  if (ways.every((way) => SCALARS.includes(String(way.type)) && !way.enum)) return { sort: 'scalar' };
  return discriminator(ways) !== '' ? { sort: 'group' } : { sort: 'union', ways };
}

/** What a way of a union is called. */
export function wayWords(schema: JsonSchema): string {
  if (typeof schema.title === 'string') return schema.title;
  const types = [schema.type ?? []].flat().map(String);
  return types.map((type) => A_TYPE[type] ?? type).join(' or ') || 'any value';
}

/** Which of the ways a value takes; the first where none fits. */
export function wayOf(ways: readonly JsonSchema[], value: Json | undefined): number {
  const at = ways.findIndex((way) => fits(way, value));
  return at < 0 ? 0 : at;
}

function fits(schema: JsonSchema, value: Json | undefined): boolean {
  if (value === undefined) return false;
  if (schema.const !== undefined) return schema.const === value;
  const types = [schema.type ?? []].flat().map(String);
  const is = (type: string) =>
    type === 'array'
      ? Array.isArray(value)
      : type === 'object'
        ? isObject(value)
        : type === 'integer' || type === 'number'
          ? typeof value === 'number'
          : typeof value === type;
  if (types.length > 0 && !types.some(is)) return false;
  if (!isObject(value)) return true;
  const required = Array.isArray(schema.required) ? schema.required.map(String) : [];
  return required.every((name) => Object.hasOwn(value, name));
}

/** What a field of a shape begins with when it is added: enough to be seen. */
export function blankOf(schema: JsonSchema): Json {
  if (schema.default !== undefined) return schema.default;
  const shape = shapeOf(schema);
  switch (shape.sort) {
    case 'yes-no':
      return false;
    case 'number':
      return Number(schema.minimum ?? 0);
    case 'choice':
      return shape.options[0] ?? '';
    case 'duration':
      return '10s';
    case 'list':
    case 'several':
    case 'alternatives':
      return [];
    case 'union':
      return blankOf(shape.ways[0]!);
    case 'group': {
      const required = Array.isArray(schema.required) ? schema.required.map(String) : [];
      const properties = isObject(schema.properties) ? schema.properties : {};
      const entries = required.map((name) => [name, blankOf((properties[name] ?? {}) as JsonSchema)]);
      return Object.fromEntries(entries);
    }
    case 'record':
    case 'conditions':
    case 'branches':
    case 'given':
    case 'rules':
    case 'steps':
    case 'schema':
      return {};
    default:
      return '';
  }
}
