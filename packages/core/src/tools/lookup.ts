import { isObject, type Json, type JsonObject, type JsonSchema, ownOf, valueAt } from '../json/json.js';
import type { Lookup, ToolDescription } from '../ports/ports.js';

/** A value to choose, with its label. */
export interface LookedUp {
  value: Json;
  label: string;
}

const MOST_IN_LABEL = 4;
/** Items of a result that are offered. */
const MOST = 500;
const ID_ENDINGS = /_(?:id|ids|key|name|code|number|slug)$/;
const LISTS = ['list', 'find', 'search', 'get', 'show', 'all', 'available'];
const VALUE_FIELDS = ['id', 'key', 'code', 'name', 'value', 'slug'];
const LABEL_FIELDS = ['label', 'title', 'name', 'full_name', 'description'];

const wordsOf = (name: string) =>
  name
    .replaceAll(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .split(/[^a-z0-9]+/);
const propertiesOf = (schema: JsonSchema) => (isObject(schema.properties) ? schema.properties : {});
const requiredOf = (schema: JsonSchema) => (Array.isArray(schema.required) ? schema.required.map(String) : []);

/**
 * Proposes the tool of a server that lists the values of an argument, by its name (`list_huts` for `hut` or
 * `hut_id`), its annotations and its required arguments.
 * @param tool whose argument it is
 * @param argument name of the argument
 * @param tools all tools of the server
 * @returns null where none is likely
 */
export function inferLookup(
  tool: Pick<ToolDescription, 'name' | 'inputSchema'>,
  argument: string,
  tools: readonly ToolDescription[],
): Lookup | null {
  const schema = propertiesOf(tool.inputSchema)[argument];
  if (isObject(schema) && (Array.isArray(schema.enum) || schema.type === 'boolean')) return null;
  const base = argument
    .replaceAll(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(ID_ENDINGS, '');
  const plurals = [`${base}s`, `${base}es`, base.replace(/y$/, 'ies')];
  const others = Object.keys(propertiesOf(tool.inputSchema)).filter((name) => name !== argument);
  const scored = tools.flatMap((one) => {
    const words = wordsOf(one.name);
    const { readOnlyHint, destructiveHint } = one.annotations ?? {};
    if (one.name === tool.name || readOnlyHint === false || destructiveHint === true) return [];
    const required = requiredOf(one.inputSchema);
    if (!required.every((name) => others.includes(name))) return [];
    const lists = words.some((word) => LISTS.includes(word));
    const about = plurals.some((plural) => words.join('_').includes(plural)) ? 2 : words.includes(base) ? 1 : 0;
    if (about === 0 || (!lists && readOnlyHint !== true) || (about === 1 && !lists)) return [];
    const score = about * 2 + (lists ? 1 : 0) + (readOnlyHint === true ? 2 : 0) - required.length;
    const along = Object.keys(propertiesOf(one.inputSchema)).filter((name) => others.includes(name));
    return [{ score, lookup: { tool: one.name, ...(along.length > 0 && { with: along }) } }];
  });
  return scored.sort((a, b) => b.score - a.score)[0]?.lookup ?? null;
}

/**
 * Returns the values in the result of a lookup: of its list, or of the first list in it.
 * @param result of the tool, flow or table
 * @param lookup how values and labels are named
 * @param argument that the values are for
 * @returns values with labels, without duplicates
 */
export function valuesIn(result: Json, lookup: Lookup, argument: string): LookedUp[] {
  const list = listIn(result, lookup.items);
  const fields = [argument, ...VALUE_FIELDS];
  const seen = new Set<string>();
  return list.slice(0, MOST).flatMap((item): LookedUp[] => {
    const value = isObject(item) ? fieldOf(item, lookup.value, fields) : item;
    if (value === undefined || value === null || typeof value === 'object' || seen.has(String(value))) return [];
    seen.add(String(value));
    return [{ value, label: isObject(item) ? labelOf(item, value, lookup.label) : '' }];
  });
}

/** Returns the label of a value: the configured field, a usual one, or the first few other fields. */
function labelOf(item: JsonObject, value: Json, named: string | undefined): string {
  const said = fieldOf(item, named, LABEL_FIELDS);
  if (said !== undefined && said !== null && typeof said !== 'object' && said !== value) return String(said);
  const others = Object.values(item).filter((one) => one !== null && typeof one !== 'object' && one !== value);
  return others.slice(0, MOST_IN_LABEL).map(String).join(', ');
}

const fieldOf = (item: JsonObject, named: string | undefined, usual: readonly string[]): Json | undefined =>
  named !== undefined
    ? (valueAt(item, named.split('.')) as Json | undefined)
    : usual.map((name) => ownOf(item, name)).find((one) => one !== undefined && typeof one !== 'object');

function listIn(result: Json, path: string | undefined): Json[] {
  if (path !== undefined) {
    const found = valueAt(result, path.split('.'));
    return Array.isArray(found) ? found : [];
  }
  if (Array.isArray(result)) return result;
  if (!isObject(result)) return [];
  return (Object.values(result).find((one) => Array.isArray(one)) as Json[] | undefined) ?? [];
}
