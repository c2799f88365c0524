import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import { schemaFault } from './schema.js';

/** The sendable part of a tool, and what was omitted. */
export interface Sendable {
  tool: JsonObject;
  left: string[];
}

const HINTS = ['readOnlyHint', 'destructiveHint', 'idempotentHint', 'openWorldHint'];

/**
 * Returns a tool in the protocol's schema (MCP 2025-11-25, Tool). One invalid part makes clients reject the whole
 * list, so it is converted or omitted.
 * @param given tool from any source
 * @returns the tool to send, and what was converted or left out
 */
export function sendable(given: JsonObject): Sendable {
  const left: string[] = [];
  const { inputSchema, outputSchema, annotations, icons, _meta, title, description, ...rest } = given;
  const input = objectSchema(inputSchema);
  if (!input) left.push('its input schema, which is not an object schema');
  const output = outputSchema === undefined ? null : objectSchema(outputSchema);
  const fault = output && schemaFault(output);
  if (outputSchema !== undefined && (!output || fault))
    left.push(`its output schema, which ${output ? `is invalid: ${fault}` : 'is not an object schema'}`);
  const hints = isObject(annotations) ? fittingHints(annotations) : null;
  if (annotations !== undefined && JSON.stringify(hints) !== JSON.stringify(annotations))
    left.push('annotations that the protocol does not define');
  const pictures = Array.isArray(icons) ? icons.filter((icon) => isObject(icon) && typeof icon.src === 'string') : [];
  return {
    tool: {
      ...rest,
      ...(typeof title === 'string' && { title }),
      ...(typeof description === 'string' && { description }),
      inputSchema: input ?? { type: 'object' },
      ...(output && !fault && { outputSchema: output }),
      ...(hints && { annotations: hints }),
      ...(pictures.length > 0 && { icons: pictures }),
      ...(isObject(_meta) && { _meta }),
    },
    left,
  };
}

const fittingHints = (annotations: JsonObject): JsonObject =>
  Object.fromEntries(
    Object.entries(annotations).filter(([name, value]) => {
      if (name === 'title') return typeof value === 'string';
      return !HINTS.includes(name) || typeof value === 'boolean';
    }),
  );

/** A schema whose top is an object, with properties that are schemas; null where it is of something else. */
function objectSchema(schema: Json | undefined): JsonSchema | null {
  if (!isObject(schema) || (schema.type !== undefined && schema.type !== 'object')) return null;
  const { properties, required, ...rest } = schema;
  const names = Array.isArray(required) && required.every((name) => typeof name === 'string') ? required : null;
  return {
    ...rest,
    type: 'object',
    ...(isObject(properties) && {
      properties: Object.fromEntries(Object.entries(properties).map(([name, property]) => [name, asObject(property)])),
    }),
    ...(names && { required: names }),
  };
}

/** `true` and `false` are schemas too (JSON Schema 2020-12, section 4.3.2), which the protocol has only as objects. */
const asObject = (schema: Json): JsonObject => (isObject(schema) ? schema : schema === false ? { not: {} } : {});
