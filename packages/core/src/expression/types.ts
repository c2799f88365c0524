import type { Environment, ObjectSchema } from '@marcbachmann/cel-js';
import { isObject, type JsonSchema } from '../json.js';
import { baseEnvironment, type Variable } from './environment.js';

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

/** An environment that knows the types of what an expression may see. A variable without a type is unknown to it. */
export function typedEnvironment(types: Partial<Record<Variable, CelType>>): Environment {
  const environment = baseEnvironment();
  for (const [name, type] of Object.entries(types)) {
    if (typeof type === 'string') environment.registerVariable(name, type);
    else if (Object.keys(type).length === 0) environment.registerVariable(name, 'map<string, dyn>');
    else environment.registerVariable({ name, schema: withoutEmpty(type) as ObjectSchema });
  }
  return environment;
}

/** The library refuses an object type without properties; such a one is a map of anything. */
function withoutEmpty(type: { [property: string]: CelType }): { [property: string]: CelType } {
  return Object.fromEntries(
    Object.entries(type).map(([name, inner]) => [
      name,
      typeof inner === 'string' ? inner : Object.keys(inner).length === 0 ? 'map<string, dyn>' : withoutEmpty(inner),
    ]),
  );
}
