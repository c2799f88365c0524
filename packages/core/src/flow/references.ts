import type { Mistake } from '../errors/errors.js';
import { type Json, pointer } from '../json/json.js';
import type { Surroundings } from '../steps/environment.js';
import type { References } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';
import { didYouMean } from '../text/suggest.js';
import { allSteps } from './all-steps.js';
import type { FlowDocument } from './document.js';
import { lookupReferences } from './input-lookups.js';

const WORDS: Record<keyof References, string> = {
  flows: 'flow',
  tables: 'table',
  servers: 'tool server',
  endpoints: 'endpoint',
  models: 'model connection',
  credentials: 'credential',
};

/** Returns a mistake for each name that a configuration refers to and the workspace does not hold. */
export function checkReferences(
  references: References,
  config: Json,
  at: PropertyKey[],
  surroundings: Surroundings,
): Mistake[] {
  return Object.entries(references).flatMap(([sort, names]: [string, string[]]) => {
    const known =
      sort === 'servers'
        ? surroundings.servers && Object.keys(surroundings.servers)
        : surroundings[sort as Exclude<keyof References, 'servers'>];
    if (!known) return [];
    const word = WORDS[sort as keyof References];
    // The field is called as what it names, except where a kind calls it otherwise.
    const field = sort.slice(0, -1);
    return names
      .filter((name) => !known.includes(name))
      .map((name) => ({
        at: pointer([...at, ...(pathOf(config, name, field) ?? pathOf(config, name) ?? [])]),
        message: name === '' ? `No ${word} is selected` : `No ${word} named "${name}" exists`,
        hint: didYouMean(name, known),
        ...(name === '' && { missing: true as const }),
      }));
  });
}

/** Location of a text in a value. @param field name of the field that contains it */
function pathOf(value: Json, text: string, field?: string, under?: string): PropertyKey[] | undefined {
  if (value === text && (field === undefined || field === under)) return [];
  if (typeof value !== 'object' || value === null) return undefined;
  for (const [key, inner] of Object.entries(value)) {
    const path = pathOf(inner, text, field, key);
    if (path) return [key, ...path];
  }
  return undefined;
}

/**
 * Returns all names that a flow uses in its steps and in the lookups of its inputs.
 * @param document of the flow
 * @returns names by the type of the thing
 */
export function referencesOf(document: FlowDocument): References {
  const all: Required<References> = { flows: [], tables: [], servers: [], endpoints: [], models: [], credentials: [] };
  const parts = [
    lookupReferences(document),
    ...[...allSteps(document.steps)].map(({ step }) => stepKind(step.kind)?.references(step.with ?? {}) ?? {}),
  ];
  for (const part of parts)
    for (const [sort, names] of Object.entries(part) as [keyof References, string[]][]) all[sort].push(...names);
  return all;
}
