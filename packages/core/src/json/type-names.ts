import { isObject, type JsonSchema } from './json.js';

/* The names of types are those of JSON Schema, everywhere. */

/** Types with their article, as messages name them. Of a boolean they name the values. */
export const A_TYPE: Readonly<Record<string, string>> = {
  string: 'a string',
  number: 'a number',
  integer: 'an integer',
  boolean: 'true or false',
  array: 'an array',
  object: 'an object',
  null: 'null',
};

/**
 * Describes a schema in a few words: `integer, 1 to 40`, `one of kestrel, larch`, `array of string`.
 * @param schema JSON Schema of a value
 * @returns the description; `any value` if nothing is known
 */
export function describeType(schema: JsonSchema): string {
  if (Array.isArray(schema.enum)) return truncate(`one of ${schema.enum.join(', ')}`);
  const types = [schema.type ?? []].flat().map(String);
  const items = types.includes('array') && isObject(schema.items) ? ` of ${describeType(schema.items)}` : '';
  const format = typeof schema.format === 'string' ? ` (${schema.format})` : '';
  return `${types.join(' or ') || 'any value'}${items}${format}${boundsOf(schema)}`;
}

const LONGEST = 80;
const truncate = (text: string) => (text.length > LONGEST ? `${text.slice(0, LONGEST - 1)}…` : text);

function boundsOf({ minimum, maximum }: JsonSchema): string {
  if (minimum !== undefined && maximum !== undefined) return `, ${minimum} to ${maximum}`;
  if (minimum !== undefined) return `, at least ${minimum}`;
  return maximum === undefined ? '' : `, at most ${maximum}`;
}
