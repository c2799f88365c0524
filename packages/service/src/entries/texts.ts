import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core';

/**
 * What a form or an address gives as text, as the types that the flow declares. A text that does not read as its type
 * stays a text, so that the flow's own check refuses it and says why. An empty text is nothing.
 */
export function fromTexts(schema: JsonSchema, texts: Record<string, unknown>): JsonObject {
  const properties = isObject(schema.properties) ? schema.properties : {};
  return Object.fromEntries(
    Object.entries(texts).flatMap(([name, text]): [string, Json][] => {
      if (typeof text !== 'string') return [[name, text as Json]];
      const property = properties[name];
      if (text === '') return [];
      return [[name, fromText(isObject(property) ? property : {}, text)]];
    }),
  );
}

function fromText(property: JsonSchema, text: string): Json {
  switch (property.type) {
    case 'integer':
    case 'number': {
      const value = Number(text);
      return text.trim() === '' || !Number.isFinite(value) ? text : value;
    }
    case 'boolean':
      return text === 'true' || text === 'on' ? true : text === 'false' ? false : text;
    case 'object':
    case 'array':
      try {
        return JSON.parse(text) as Json;
      } catch {
        return text;
      }
    default:
      return Array.isArray(property.enum) ? (property.enum.find((one) => String(one) === text) ?? text) : text;
  }
}
