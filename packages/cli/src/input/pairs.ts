import { InvalidArgumentError } from '@commander-js/extra-typings';
import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';

/** An option written name=value, given as often as one likes; a value that is JSON is taken as such. */
export function collectValue(text: string, before: Record<string, unknown>): Record<string, unknown> {
  const [name, value] = cut(text);
  return { ...before, [name]: read(value) };
}

/** The same with texts alone. */
export function collectText(text: string, before: Record<string, string>): Record<string, string> {
  const [name, value] = cut(text);
  return { ...before, [name]: value };
}

/** An option that may be given more than once. */
export const collectOne = (text: string, before: string[]): string[] => [...before, text];

/** Returns texts as the types that a JSON Schema gives them: a text input takes `7` as it is written. */
export function readTexts(texts: Record<string, string>, schema: JsonSchema): JsonObject {
  const properties = isObject(schema.properties) ? schema.properties : {};
  return Object.fromEntries(
    Object.entries(texts).map(([name, text]) => {
      const property = properties[name];
      const types = isObject(property) ? [property.type ?? []].flat() : [];
      return [
        name,
        types.includes('string') && types.every((type) => type === 'string' || type === 'null') ? text : read(text),
      ];
    }),
  );
}

/** JSON where it is that, else the text. */
function read(text: string): Json {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return text;
  }
}

function cut(text: string): [string, string] {
  const equals = text.indexOf('=');
  if (equals < 1) throw new InvalidArgumentError('Use name=value.');
  return [text.slice(0, equals), text.slice(equals + 1)];
}
