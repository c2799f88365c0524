import { isObject, type JsonObject, jsonMistake } from '@pindro/core/browser';
import { usage } from '../usage.js';

/** A JSON object written on the command line. */
export function readObject(text: string): JsonObject {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw usage(
      `"${text.slice(0, 60)}" is not JSON: ${jsonMistake(error)}`,
      'Quote it for the shell, such as \'{"hut":"larch"}\'.',
    );
  }
  if (!isObject(value)) throw usage('A JSON object is required, such as {"hut":"larch"}', '');
  return value;
}
