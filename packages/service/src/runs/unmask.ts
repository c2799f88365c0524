import { isObject, type Json, MASK } from '@pindro/core';

/**
 * Puts values back where a person sends what they were shown masked.
 * @param kept inputs as they were shown, each with what it was; the first that has something at the place counts
 */
export function unmask(given: Json, kept: readonly (readonly [shown: Json, whole: Json])[]): Json {
  if (typeof given === 'string' && given.includes(MASK))
    return kept.find(([shown, whole]) => shown === given && whole !== undefined)?.[1] ?? given;
  if (Array.isArray(given)) return given.map((item, index) => unmask(item, below(kept, index)));
  if (!isObject(given)) return given;
  return Object.fromEntries(Object.entries(given).map(([key, item]) => [key, unmask(item, below(kept, key))]));
}

function below(kept: readonly (readonly [Json, Json])[], key: string | number): (readonly [Json, Json])[] {
  const at = (value: Json): Json | undefined =>
    typeof value === 'object' && value !== null && Object.hasOwn(value, key)
      ? (value as { [key: string | number]: Json })[key]
      : undefined;
  return kept.flatMap(([shown, whole]) => {
    const [a, b] = [at(shown), at(whole)];
    return a === undefined || b === undefined ? [] : [[a, b] as const];
  });
}
