import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';

export interface FormField {
  name: string;
  schema: JsonSchema;
  required: boolean;
  /** Shown immediately although it is optional, because most people fill it in. */
  common: boolean;
}

const COMMON = [
  ...['where', 'query', 'json', 'input', 'arguments', 'instructions', 'facts', 'data', 'limit', 'result', 'credential'],
  ...['message', 'for', 'until', 'schema', 'toolbox', 'tool', 'list', 'flow', 'memory', 'use', 'tools', 'when'],
];

/** The fields of a form. Where the form depends on one choice (`do` of a table), that of the present choice. */
export function fieldsOf(schema: JsonSchema, value: JsonObject): FormField[] {
  const options = (schema.oneOf ?? schema.anyOf) as JsonSchema[] | undefined;
  if (!options || isObject(schema.properties)) return listOf(schema);
  const key = discriminator(options);
  const chosen = options.find((option) => constOf(option, key) === value[key]) ?? options[0]!;
  const words = options.map((option) => [String(constOf(option, key)), String(propertyOf(option, key).title ?? '')]);
  const choice: FormField = {
    name: key,
    schema: {
      type: 'string',
      title: 'Action',
      enum: words.map(([name]) => name!),
      words: Object.fromEntries(words),
    },
    required: true,
    common: true,
  };
  const rest = listOf(chosen);
  const at = rest.findIndex((field) => field.name === key);
  return [...rest.slice(0, at), choice, ...rest.slice(at + 1)];
}

function listOf(schema: JsonSchema): FormField[] {
  const required = Array.isArray(schema.required) ? schema.required : [];
  return Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([name, property]) => {
    const inner = isObject(property) ? property : {};
    // A field with a default is optional.
    return {
      name,
      schema: inner,
      required: required.includes(name) && inner.default === undefined,
      common: COMMON.includes(name) || inner.common === true,
    };
  });
}

const propertyOf = (schema: JsonSchema, name: string) => {
  const properties = isObject(schema.properties) ? schema.properties : {};
  return isObject(properties[name]) ? (properties[name] as JsonSchema) : {};
};
const constOf = (schema: JsonSchema, name: string) => propertyOf(schema, name).const;
export const discriminator = (options: JsonSchema[]) =>
  Object.keys(isObject(options[0]?.properties) ? options[0].properties : {}).find((name) =>
    options.every((option) => constOf(option, name) !== undefined),
  ) ?? '';

/** What a field is called: by its schema, else by its name. */
export function labelOf(name: string, schema: JsonSchema): string {
  if (typeof schema.title === 'string' && schema.title !== '') return schema.title;
  return name.replaceAll(/[_-]/g, ' ').replace(/^./, (letter) => letter.toUpperCase());
}
export const aboutOf = (schema: JsonSchema): string => String(schema.description ?? '');

/** Returns the schema with local references resolved. */
export function resolved(schema: JsonSchema, root: JsonSchema, depth = 0): JsonSchema {
  if (typeof schema.$ref === 'string' && depth < 8) {
    const parts = schema.$ref.replace(/^#\/?/, '').split('/').filter(Boolean);
    const target = parts.reduce<Json | undefined>((here, part) => (isObject(here) ? here[part] : undefined), root);
    const { $ref: _, ...rest } = schema;
    if (isObject(target)) return resolved({ ...target, ...rest }, root, depth + 1);
  }
  if (Array.isArray(schema.allOf) && schema.allOf.length === 1 && isObject(schema.allOf[0])) {
    const { allOf: _, ...rest } = schema;
    return resolved({ ...(schema.allOf[0] as JsonSchema), ...rest }, root, depth + 1);
  }
  const properties = isObject(schema.properties) ? Object.entries(schema.properties) : null;
  return properties && depth < 8
    ? {
        ...schema,
        properties: Object.fromEntries(
          properties.map(([name, inner]) => [name, isObject(inner) ? resolved(inner, root, depth + 1) : inner]),
        ),
      }
    : schema;
}
