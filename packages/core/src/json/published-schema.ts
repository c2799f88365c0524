import { isObject, type Json, type JsonObject } from './json.js';

/** Keywords of JSON Schema 2020-12. What else a schema holds are hints for the console's forms. */
const KEYWORDS = new Set(
  (
    '$schema $id $ref $anchor $dynamicRef $dynamicAnchor $vocabulary $comment $defs allOf anyOf oneOf not if then else ' +
    'dependentSchemas prefixItems items contains properties patternProperties additionalProperties propertyNames ' +
    'unevaluatedItems unevaluatedProperties type enum const multipleOf maximum exclusiveMaximum minimum ' +
    'exclusiveMinimum maxLength minLength pattern maxItems minItems uniqueItems maxContains minContains maxProperties ' +
    'minProperties required dependentRequired title description default deprecated readOnly writeOnly examples format ' +
    'contentEncoding contentMediaType contentSchema'
  ).split(' '),
);
const FORMATS = new Set(
  (
    'date-time date time duration email idn-email hostname idn-hostname ipv4 ipv6 uri uri-reference iri iri-reference ' +
    'uuid uri-template json-pointer relative-json-pointer regex'
  ).split(' '),
);
const BY_NAME = ['properties', 'patternProperties', '$defs', 'dependentSchemas'];
const VALUES = ['const', 'enum', 'default', 'examples', 'required', 'type', 'dependentRequired'];
/** Keywords that apply to one type only, by that type. */
const OF_TYPE: Record<string, string[]> = {
  object: ['properties', 'patternProperties', 'additionalProperties', 'propertyNames', 'required'],
  string: ['pattern', 'minLength', 'maxLength', 'format'],
};

/**
 * Returns a schema as strict validators take it (Ajv with `strict: true`): without the console's own keywords, without
 * alternatives that match everything, and with the type that its keywords are about.
 * @param schema JSON Schema
 * @returns a copy
 */
export function publishedSchema(schema: Json): Json {
  if (!isObject(schema)) return schema;
  const result: JsonObject = {};
  for (const [key, value] of Object.entries(schema)) {
    if (!KEYWORDS.has(key) || (key === 'format' && !FORMATS.has(String(value)))) continue;
    if (VALUES.includes(key)) result[key] = value;
    else if (BY_NAME.includes(key) && isObject(value))
      result[key] = Object.fromEntries(Object.entries(value).map(([name, one]) => [name, publishedSchema(one)]));
    else result[key] = Array.isArray(value) ? value.map(publishedSchema) : publishedSchema(value);
  }
  for (const key of ['anyOf', 'oneOf'])
    if (Array.isArray(result[key]) && result[key].some((one) => isObject(one) && matchesAll(one))) delete result[key];
  if (Array.isArray(result.type) && !result.anyOf) {
    result.anyOf = result.type.map((type) => ({ type }));
    delete result.type;
  }
  if (result.type === undefined)
    for (const [type, keywords] of Object.entries(OF_TYPE))
      if (keywords.some((keyword) => keyword in result)) result.type = type;
  return result;
}

const matchesAll = (schema: JsonObject) =>
  Object.keys(schema).every((key) => ['title', 'description', 'examples', 'default', '$comment'].includes(key));
