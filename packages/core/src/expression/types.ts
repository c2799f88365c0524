import type { Environment } from '@marcbachmann/cel-js';
import { isObject, type JsonSchema } from '../json/json.js';
import { baseEnvironment } from './environment.js';

/** A CEL type name such as `string` or `list<dyn>`, or the types of an object's properties. */
export type CelType = string | { [property: string]: CelType };

const SIMPLE: Record<string, string> = {
  string: 'string',
  boolean: 'bool',
  integer: 'int',
  number: 'double',
  null: 'dyn',
};

/** The CEL type of the values a JSON Schema admits; what it leaves open is `dyn`. */
export function celTypeOf(schema: JsonSchema | undefined): CelType {
  if (!isObject(schema) || typeof schema.type !== 'string') return 'dyn';
  if (schema.type === 'array') {
    const item = celTypeOf(schema.items as JsonSchema);
    return typeof item === 'string' ? `list<${item}>` : 'list<dyn>';
  }
  if (schema.type !== 'object') return SIMPLE[schema.type] ?? 'dyn';
  if (!isObject(schema.properties)) return 'map<string, dyn>';
  return Object.fromEntries(
    Object.entries(schema.properties).map(([name, property]) => [name, celTypeOf(property as JsonSchema)]),
  );
}

/**
 * An environment that knows the types of what an expression may see. A variable without a type is unknown to it. Types
 * that are alike are made known once: the library compares each new one with all it has, and a long flow has hundreds
 * of steps of the same few kinds.
 */
export function typedEnvironment(types: Record<string, CelType>): Environment {
  const environment = baseEnvironment();
  const known = new Map<string, string>();
  const nameOf = (type: CelType): string => {
    if (typeof type === 'string') return type;
    // The library refuses an object type without properties; such a one is a map of anything.
    if (Object.keys(type).length === 0) return 'map<string, dyn>';
    const fields = Object.fromEntries(Object.entries(type).map(([name, inner]) => [name, nameOf(inner)]));
    const text = JSON.stringify(fields);
    const name = known.get(text) ?? `Shape${known.size + 1}`;
    if (!known.has(text)) {
      known.set(text, name);
      environment.registerType(name, { fields });
    }
    return name;
  };
  for (const [name, type] of Object.entries(types)) environment.registerVariable(name, nameOf(type));
  return environment;
}
