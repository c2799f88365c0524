import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';

let known: Promise<JsonSchema> | null = null;

/** The published schema of the flow document. */
export function schemaOfFlow(): Promise<JsonSchema> {
  known ??= fetch('/api/v1/schemas/flow.json')
    .then((response) => response.json() as Promise<JsonSchema>)
    .catch(() => {
      known = null;
      return {};
    });
  return known;
}

export interface Offer {
  label: string;
  detail: string;
  /** Whether it is a name that a colon follows. */
  isKey: boolean;
}

/** What may stand at a path of a document: names of properties, or values. @param at the values along the path */
export function offersAt(root: JsonSchema, path: readonly string[], kindOf: (step: string[]) => string): Offer[] {
  const schemas = walk(root, root, path, kindOf);
  const keys = schemas.flatMap((schema) => properties(root, schema));
  const seen = new Set<string>();
  return keys.filter(({ label }) => !seen.has(label) && seen.add(label));
}

/** The values that a property may have, where they can be counted. */
export function valuesAt(root: JsonSchema, path: readonly string[], kindOf: (step: string[]) => string): Offer[] {
  const offers = walk(root, root, path, kindOf).flatMap(values);
  const seen = new Set<string>();
  return offers.filter(({ label }) => !seen.has(label) && seen.add(label));
}

function walk(
  root: JsonSchema,
  schema: JsonSchema,
  path: readonly string[],
  kindOf: (step: string[]) => string,
  before: string[] = [],
): JsonSchema[] {
  const here = ways(root, schema);
  const [name, ...rest] = path;
  if (name === undefined) return here;
  return here.flatMap((one) => {
    if (name === '-') return isObject(one.items) ? walk(root, one.items as JsonSchema, rest, kindOf, before) : [];
    const own = isObject(one.properties) ? one.properties[name] : undefined;
    const next = isObject(own) ? own : isObject(one.additionalProperties) ? one.additionalProperties : undefined;
    // What `with` takes depends on the kind of its step.
    const conditional = name === 'with' && Array.isArray(one.allOf) ? configOf(one.allOf, kindOf(before)) : undefined;
    const taken = conditional ?? next;
    return taken ? walk(root, taken as JsonSchema, rest, kindOf, [...before, name]) : [];
  });
}

function configOf(rules: Json[], kind: string): JsonObject | undefined {
  for (const rule of rules) {
    if (!isObject(rule)) continue;
    const text = JSON.stringify(rule.if ?? null);
    const given = isObject(rule.then) && isObject(rule.then.properties) ? rule.then.properties.with : undefined;
    if (text.includes(`"const":"${kind}"`) && isObject(given)) return given;
  }
  return undefined;
}

function ways(root: JsonSchema, schema: JsonSchema, depth = 0): JsonSchema[] {
  if (depth > 6) return [];
  if (typeof schema.$ref === 'string') {
    const parts = schema.$ref.replace(/^#\//, '').split('/');
    const target = parts.reduce<Json | undefined>((at, part) => (isObject(at) ? at[part] : undefined), root);
    return isObject(target) ? ways(root, target, depth + 1) : [];
  }
  const inner = [schema.anyOf, schema.oneOf].flatMap((list) => (Array.isArray(list) ? list : []));
  const isValue = inner.every((one) => isObject(one) && one.const !== undefined);
  return [schema, ...(isValue ? [] : inner.flatMap((one) => (isObject(one) ? ways(root, one, depth + 1) : [])))];
}

function properties(root: JsonSchema, schema: JsonSchema): Offer[] {
  return Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([label, inner]) => {
    const first = isObject(inner) ? ways(root, inner)[0] : undefined;
    const about = isObject(inner) ? (inner.description ?? first?.description ?? '') : '';
    return { label, detail: String(about), isKey: true };
  });
}

function values(schema: JsonSchema): Offer[] {
  const named = [schema.oneOf, schema.anyOf].flatMap((list) => (Array.isArray(list) ? list : []));
  return [
    ...(Array.isArray(schema.enum) ? schema.enum : []).map((one) => ({ label: String(one), detail: '', isKey: false })),
    ...(schema.type === 'boolean' ? ['true', 'false'] : []).map((label) => ({ label, detail: '', isKey: false })),
    ...named.flatMap((one) =>
      isObject(one) && one.const !== undefined
        ? [{ label: String(one.const), detail: String(one.description ?? ''), isKey: false }]
        : [],
    ),
    ...(schema.const === undefined ? [] : [{ label: String(schema.const), detail: '', isKey: false }]),
  ];
}
