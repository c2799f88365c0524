import { isObject, type JsonObject } from '@pindro/core/browser';

/** A JSON object written on the command line. */
export function readObject(text: string): JsonObject {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new Error(`The arguments are not JSON: ${(error as Error).message}`);
  }
  if (!isObject(value)) throw new Error('The arguments must be a JSON object such as {"hut":"larch"}');
  return value;
}
