import type { JsonSchema } from '@pindro/core/browser';
import { brief } from '../state/format.js';

const WORDS: Record<string, string> = {
  string: 'text',
  integer: 'whole number',
  number: 'number',
  boolean: 'yes or no',
  array: 'list',
  object: 'fields',
};

/** What a schema takes, in a few words: `whole number, 1 to 40`, `one of kestrel, larch`. */
export function describeType(schema: JsonSchema): string {
  if (Array.isArray(schema.enum)) return brief(`one of ${schema.enum.join(', ')}`, 80);
  const types = [schema.type ?? []].flat().map((type) => WORDS[String(type)] ?? String(type));
  const format = typeof schema.format === 'string' ? ` (${schema.format})` : '';
  const { minimum, maximum } = schema;
  const bounds =
    minimum !== undefined && maximum !== undefined
      ? `, ${minimum} to ${maximum}`
      : minimum !== undefined
        ? `, at least ${minimum}`
        : maximum !== undefined
          ? `, at most ${maximum}`
          : '';
  return `${types.join(' or ') || 'any value'}${format}${bounds}`;
}
