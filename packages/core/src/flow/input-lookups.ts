import { isObject, type Json, type JsonObject, ownOf } from '../json/json.js';
import type { References } from '../steps/kind.js';
import type { FlowDocument } from './document.js';

/** The keyword of JSON Schema with which an input names the source of its values. */
export const LOOKUP_KEYWORD = 'x-values';
const FIELDS = { flows: 'flow', tables: 'table', servers: 'server' } as const;

/** Returns the sources of the values of a flow's inputs, with their locations in the document. */
export function lookupsOf({ input }: Pick<FlowDocument, 'input'>): { at: PropertyKey[]; lookup: Json }[] {
  const properties = isObject(input?.properties) ? input.properties : {};
  return Object.entries(properties).flatMap(([name, property]) => {
    const lookup = isObject(property) ? ownOf(property, LOOKUP_KEYWORD) : undefined;
    return lookup === undefined ? [] : [{ at: ['input', 'properties', name, LOOKUP_KEYWORD], lookup }];
  });
}

/** Returns what the sources name. */
export function lookupReferences(document: Pick<FlowDocument, 'input'>): References {
  const named = (field: string) =>
    lookupsOf(document).flatMap(({ lookup }) => {
      const name = isObject(lookup) ? lookup[field] : undefined;
      return typeof name === 'string' ? [name] : [];
    });
  return Object.fromEntries(Object.entries(FIELDS).map(([sort, field]) => [sort, named(field)]));
}

/** Replaces names in the sources of a document, in place. @returns whether anything changed */
export function renameInLookups(
  document: FlowDocument,
  sort: keyof References,
  names: ReadonlySet<string>,
  to: string,
): boolean {
  const field = (FIELDS as { [sort: string]: string })[sort];
  const changed = lookupsOf(document).filter(
    ({ lookup }) => field !== undefined && isObject(lookup) && names.has(String(lookup[field])),
  );
  for (const { lookup } of changed) (lookup as JsonObject)[field!] = to;
  return changed.length > 0;
}
