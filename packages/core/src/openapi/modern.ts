import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';

/** What holds schemas under names that the author chose, which are no keywords even where they look like one. */
const NAMED = new Set(['properties', 'patternProperties', '$defs', 'definitions']);
const BOUNDS = [
  ['exclusiveMinimum', 'minimum'],
  ['exclusiveMaximum', 'maximum'],
] as const;

/** A schema of OpenAPI 3.0 as JSON Schema 2020-12; one of 3.1 is that already. */
export const modern = (schema: JsonSchema): JsonSchema => walk(schema) as JsonSchema;

const walkAll = (value: JsonObject): JsonObject =>
  Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, walk(inner)]));

function walk(value: Json): Json {
  if (Array.isArray(value)) return value.map(walk);
  if (!isObject(value)) return value;
  const { nullable, example, xml: _xml, discriminator: _kind, externalDocs: _docs, ...rest } = value;
  const result: JsonObject = Object.fromEntries(
    Object.entries(rest).map(([name, inner]) => [
      name,
      NAMED.has(name) && isObject(inner) ? walkAll(inner) : walk(inner),
    ]),
  );
  if (nullable === true && typeof result.type === 'string') result.type = [result.type, 'null'];
  if (example !== undefined && !isObject(example)) result.examples = [example];
  for (const [exclusive, bound] of BOUNDS) {
    if (typeof result[exclusive] !== 'boolean') continue;
    if (result[exclusive] === true && result[bound] !== undefined) {
      result[exclusive] = result[bound]!;
      delete result[bound];
    } else delete result[exclusive];
  }
  return result;
}
