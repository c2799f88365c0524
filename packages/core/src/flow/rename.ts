import { isObject, type Json, type JsonObject, ownOf } from '../json/json.js';
import type { References } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';
import { allSteps } from './all-steps.js';
import type { FlowDocument } from './document.js';
import { renameInLookups } from './input-lookups.js';
import { referencesOf } from './references.js';

/** A name that nobody gives, to see whether a text is taken for one. */
const PROBE = 'a-name-that-nobody-gives';

/**
 * Returns whether a document refers to something by any of its names.
 * @param document of a flow
 * @param sort type of the thing: `tables`, `servers`, `models` …
 * @param names of the thing, with former ones
 * @returns true if a step or an input uses one of the names
 */
export const namesAny = (document: FlowDocument, sort: keyof References, names: ReadonlySet<string>): boolean =>
  referencesOf(document)[sort]?.some((name) => names.has(name)) === true;

/**
 * Renames a referenced thing in a flow. Only values that the step kind declares as references change.
 * @param document of the flow
 * @param sort type of the thing: `tables`, `servers`, `models` …
 * @param names that it had
 * @param to its new name
 * @returns null where nothing changes
 */
export function withNewName(
  document: FlowDocument,
  sort: keyof References,
  names: ReadonlySet<string>,
  to: string,
): FlowDocument | null {
  const changed = structuredClone(document);
  let found = renameInLookups(changed, sort, names, to);
  for (const { step } of allSteps(changed.steps)) {
    const kind = stepKind(step.kind);
    const config = step.with;
    if (!kind || !config) continue;
    for (const leaf of leaves(config, names)) {
      const before = leaf.get();
      leaf.set(PROBE);
      const isName = kind.references(config)[sort]?.includes(PROBE);
      leaf.set(isName ? to : before);
      found ||= isName === true;
    }
  }
  return found ? changed : null;
}

interface Leaf {
  get(): Json;
  set(value: Json): void;
}

/** The texts in a configuration that are one of the names, but not those of steps inside of it. */
function* leaves(value: Json, names: ReadonlySet<string>): Generator<Leaf> {
  if (!isObject(value) && !Array.isArray(value)) return;
  const holder = value as JsonObject;
  for (const [key, inner] of Object.entries(holder)) {
    if (typeof inner === 'string' && names.has(inner))
      yield { get: () => holder[key] as Json, set: (changed) => void (holder[key] = changed) };
    else if (key !== 'steps' || Array.isArray(value)) yield* leaves(inner as Json, names);
  }
}

/** Where a table step names columns: as keys of these, or as texts in those. */
const KEYED_BY_COLUMN = ['row', 'set', 'where', 'any'];
const COLUMN_TEXTS = ['sort', 'sum', 'key'];

/**
 * Renames columns in the table steps of a flow. Expressions over rows stay as written.
 * @param document of the flow
 * @param tables the names of the table
 * @param names new names by former ones
 * @returns null where nothing changes
 */
export function withColumnNames(
  document: FlowDocument,
  tables: ReadonlySet<string>,
  names: Record<string, string>,
): FlowDocument | null {
  const changed = structuredClone(document);
  for (const { step } of allSteps(changed.steps))
    if (step.kind === 'table' && step.with && tables.has(String(step.with.table)))
      step.with = inColumns(step.with, names);
  return JSON.stringify(changed) === JSON.stringify(document) ? null : changed;
}

function inColumns(config: JsonObject, names: Record<string, string>): JsonObject {
  const nameOf = (column: string) => ownOf(names, column) ?? column;
  const keyed = (value: Json): Json => {
    if (Array.isArray(value)) return value.map(keyed);
    if (!isObject(value)) return value;
    return Object.fromEntries(Object.entries(value).map(([column, inner]) => [nameOf(column), inner]));
  };
  const textual = (value: Json): Json =>
    Array.isArray(value) ? value.map(textual) : typeof value === 'string' ? nameOf(value) : value;
  return Object.fromEntries(
    Object.entries(config).map(([part, value]) => {
      if (part === 'unless' && isObject(value)) return [part, inColumns(value, names)];
      if (COLUMN_TEXTS.includes(part)) return [part, textual(value)];
      return [part, KEYED_BY_COLUMN.includes(part) ? keyed(value) : value];
    }),
  );
}
