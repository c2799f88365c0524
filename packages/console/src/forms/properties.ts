import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';

/** Changes of a JSON Schema of an object, as a form makes them; each gives a new schema. */

export const TYPES = ['string', 'integer', 'number', 'boolean', 'array', 'object'] as const;
export const FORMATS = ['', 'date', 'date-time', 'email', 'uri', 'password'];

export const propertiesOf = (schema: JsonSchema): [string, JsonSchema][] =>
  Object.entries(isObject(schema.properties) ? schema.properties : {}) as [string, JsonSchema][];
export const requiredOf = (schema: JsonSchema): string[] =>
  Array.isArray(schema.required) ? schema.required.map(String) : [];

function whole(schema: JsonSchema, properties: JsonObject, required: string[]): JsonSchema {
  const { required: _, ...bare } = schema;
  return { ...bare, type: 'object', ...(required.length > 0 && { required }), properties };
}

export function putProperty(schema: JsonSchema, name: string, inner: JsonSchema, needed: boolean): JsonSchema {
  const others = requiredOf(schema).filter((one) => one !== name);
  const properties = { ...Object.fromEntries(propertiesOf(schema)), [name]: inner };
  return whole(schema, properties, needed ? [...others, name] : others);
}

export function removeProperty(schema: JsonSchema, name: string): JsonSchema {
  return whole(
    schema,
    Object.fromEntries(propertiesOf(schema).filter(([one]) => one !== name)),
    requiredOf(schema).filter((one) => one !== name),
  );
}

export function renameProperty(schema: JsonSchema, name: string, wanted: string): JsonSchema {
  return whole(
    schema,
    Object.fromEntries(propertiesOf(schema).map(([one, inner]) => [one === name ? wanted : one, inner])),
    requiredOf(schema).map((one) => (one === name ? wanted : one)),
  );
}

/** Sets keywords of a property; empty ones are removed. */
export function changed(schema: JsonSchema, change: { [key: string]: Json | undefined }): JsonSchema {
  const next = Object.entries({ ...schema, ...change }).filter(([, value]) => value !== undefined && value !== '');
  return Object.fromEntries(next) as JsonSchema;
}

export const PROPERTY_NAME = /^[a-zA-Z_]\w*$/;
