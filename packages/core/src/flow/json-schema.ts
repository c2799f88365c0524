import { z } from 'zod';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import { stepKinds } from '../steps/registry.js';
import { flowSchema } from './document.js';

/** Stands where an expression does, whatever the kind of step takes there. */
const EXPRESSION = { type: 'string', pattern: '\\$\\{', description: 'An expression: ${ … }' };
const STEPS = '#/$defs/steps';

/**
 * Returns the JSON Schema (2020-12) of flow documents, with the settings of each step kind. All definitions are at
 * the top level, where editors and validators look for them.
 * @returns a JSON Schema with `$defs`
 */
export function flowJsonSchema(): JsonSchema {
  const definitions: JsonObject = {};
  const root = hoisted(z.toJSONSchema(flowSchema, { io: 'input', unrepresentable: 'any' }), 'flow', definitions);
  const properties = root.properties as JsonObject;
  const steps = properties.steps as JsonObject;
  const step = steps.additionalProperties as JsonObject;
  step.allOf = stepKinds().map((kind) => {
    const config = hoisted(
      z.toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' }),
      kind.name,
      definitions,
    );
    const taken = withExpressions(config, kind.plain ?? []) as JsonObject;
    return {
      if: { properties: { kind: { const: kind.name } }, required: ['kind'] },
      // biome-ignore lint/suspicious/noThenProperty: `then` is a keyword of JSON Schema
      then: { properties: { with: taken } },
    };
  });
  // The description lists the kinds, so that editors offer them.
  const kindNames = stepKinds().map(({ name, title, about }) => ({ const: name, title, description: about }));
  (step.properties as JsonObject).kind = { oneOf: kindNames, description: 'Kind of the step' };
  definitions.steps = steps;
  properties.steps = { $ref: STEPS };
  return { ...root, $defs: definitions, title: 'Pindro flow' } as JsonSchema;
}

/** A schema whose definitions stand among those of the whole, under names of their own. */
function hoisted(given: object, prefix: string, definitions: JsonObject): JsonObject {
  const { $schema, $defs = {}, ...schema } = given as JsonObject;
  const rename = (value: Json): Json => {
    if (Array.isArray(value)) return value.map(rename);
    if (!isObject(value)) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => {
        if (key === '$ref' && typeof inner === 'string')
          return [key, inner.replace(/^#\/\$defs\//, `#/$defs/${prefix}_`).replace(/^#$/, `#/$defs/${prefix}`)];
        return [key, rename(inner)];
      }),
    );
  };
  for (const [name, definition] of Object.entries($defs as JsonObject))
    definitions[`${prefix}_${name}`] = rename(definition);
  const renamed = rename(schema) as JsonObject;
  if (JSON.stringify(renamed).includes(`"#/$defs/${prefix}"`)) definitions[prefix] = renamed;
  return prefix === 'flow' && $schema ? { $schema, ...renamed } : renamed;
}

/** The same schema with expressions allowed in place of values. Nested steps are steps too. */
function withExpressions(schema: Json, plain: readonly string[], top = true): Json {
  if (!isObject(schema)) return schema;
  const inner: JsonObject = {};
  for (const [key, value] of Object.entries(schema)) {
    if (key === 'properties' && isObject(value))
      inner[key] = Object.fromEntries(
        Object.entries(value).map(([name, property]) => [
          name,
          name === 'steps' && top
            ? { $ref: STEPS }
            : plain.includes(name)
              ? property
              : withExpressions(property, plain, false),
        ]),
      );
    else if (key === 'items' || key === 'additionalProperties') inner[key] = withExpressions(value, plain, false);
    // Discriminated alternatives keep their shape.
    else if ((key === 'oneOf' || key === 'anyOf') && Array.isArray(value) && (top || value.some(isShape)))
      inner[key === 'oneOf' ? 'anyOf' : key] = value.map((one) => withExpressions(one, plain, top));
    else inner[key] = value;
  }
  if (top || !needsExpression(schema)) return inner;
  const { description, title, default: fallback, ...rest } = inner;
  return {
    anyOf: [rest, EXPRESSION],
    ...(title !== undefined && { title }),
    ...(description !== undefined && { description }),
    ...(fallback !== undefined && { default: fallback }),
  };
}

const isShape = (schema: Json): boolean => isObject(schema) && schema.type === 'object';

/** What a plain text does not fit. */
const needsExpression = (schema: JsonObject): boolean =>
  schema.enum !== undefined ||
  schema.const !== undefined ||
  schema.pattern !== undefined ||
  schema.format !== undefined ||
  schema.minLength !== undefined ||
  Array.isArray(schema.anyOf) ||
  Array.isArray(schema.oneOf) ||
  (schema.type !== undefined && schema.type !== 'string');
