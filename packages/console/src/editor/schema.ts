import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';

export interface FormField {
  name: string;
  schema: JsonSchema;
  required: boolean;
  /** Shown at once although it may be left out, because most will fill it. */
  common: boolean;
}

const COMMON = [
  'where',
  'query',
  'json',
  'input',
  'arguments',
  'instructions',
  'facts',
  'data',
  'limit',
  'result',
  'credential',
  'message',
  'for',
  'until',
  'html',
  'schema',
  'toolbox',
  'tool',
  'list',
  'flow',
];

/** The fields of a form. Where the form depends on one choice (`do` of a table), that of the present choice. */
export function fieldsOf(schema: JsonSchema, value: JsonObject): FormField[] {
  const options = (schema.oneOf ?? schema.anyOf) as JsonSchema[] | undefined;
  if (!options) return listOf(schema);
  const key = discriminator(options);
  const chosen = options.find((option) => constOf(option, key) === value[key]) ?? options[0]!;
  const choice: FormField = {
    name: key,
    schema: { type: 'string', enum: options.map((option) => String(constOf(option, key))) },
    required: true,
    common: true,
  };
  return [choice, ...listOf(chosen).filter((field) => field.name !== key)];
}

function listOf(schema: JsonSchema): FormField[] {
  const required = Array.isArray(schema.required) ? schema.required : [];
  return Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([name, property]) => {
    const inner = isObject(property) ? property : {};
    // What has a value of its own may always be left out.
    return {
      name,
      schema: inner,
      required: required.includes(name) && inner.default === undefined,
      common: COMMON.includes(name),
    };
  });
}

const propertyOf = (schema: JsonSchema, name: string) => {
  const properties = isObject(schema.properties) ? schema.properties : {};
  return isObject(properties[name]) ? (properties[name] as JsonSchema) : {};
};
const constOf = (schema: JsonSchema, name: string) => propertyOf(schema, name).const;
const discriminator = (options: JsonSchema[]) =>
  Object.keys(isObject(options[0]!.properties) ? options[0]!.properties : {}).find(
    (name) => constOf(options[0]!, name) !== undefined,
  ) ?? '';

export type FieldSort = 'choice' | 'yes-no' | 'number' | 'text' | 'pairs' | 'other';

/** Which control a field gets. */
export function sortOf(schema: JsonSchema): FieldSort {
  if (Array.isArray(schema.enum)) return 'choice';
  if (schema.asText === true) return 'text';
  if (schema.type === 'boolean') return 'yes-no';
  if (schema.type === 'integer' || schema.type === 'number') return 'number';
  if (schema.type === 'string') return 'text';
  if (schema.type === 'object' && schema.properties === undefined && isObject(schema.additionalProperties)) {
    return holdsSteps(schema.additionalProperties) ? 'other' : 'pairs';
  }
  const ways = (schema.anyOf ?? []) as JsonSchema[];
  // An address, or several; a text, or anything.
  if (ways.length > 0 && ways[0]?.type === 'string' && ways.every((way) => way.type !== 'object')) return 'text';
  return 'other';
}
const holdsSteps = (schema: JsonSchema) => isObject(schema.properties) && 'kind' in schema.properties;
