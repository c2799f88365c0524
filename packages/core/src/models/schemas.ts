import { isObject, type Json, type JsonObject, type JsonSchema, setOwn } from '../json/json.js';

/** What a dialect does not take of JSON Schema. */
export interface Refused {
  /** Keywords that it refuses; what they say is put into words. */
  keywords: ReadonlySet<string>;
  /** Whether the schema as a whole may be an alternative of several. */
  unionOnTop: boolean;
  /** Whether type lists are unsupported, and `nullable` represents null. */
  nullable?: boolean;
  /** Supported formats; all by default. */
  formats?: ReadonlySet<string>;
  /** Whether only text may be enumerated. */
  textEnums?: boolean;
}

/** So deep references are followed into themselves; behind that anything goes, and it is said. */
const DEEPEST = 4;
const UNIONS = ['oneOf', 'anyOf', 'allOf'] as const;

/**
 * Converts a schema for a dialect: references are inlined, and unsupported parts are moved to the description.
 * @returns the schema, and the parts that are sent as text only or omitted, with their locations
 */
export function fitSchema(schema: JsonSchema, refused: Refused): { schema: JsonSchema; lost: string[] } {
  const lost: string[] = [];
  const fitted = new Fitting(schema as JsonObject, refused, lost).fit(schema as JsonObject, '', []);
  const whole = { type: 'object', ...(isObject(fitted) ? fitted : {}) } as JsonObject;
  if (whole.type === 'object' && !isObject(whole.properties)) whole.properties = {};
  return { schema: whole as JsonSchema, lost: [...new Set(lost)] };
}

class Fitting {
  constructor(
    private readonly root: JsonObject,
    private readonly refused: Refused,
    private readonly lost: string[],
  ) {}

  fit(given: Json, at: string, chain: readonly string[]): JsonObject {
    if (!isObject(given)) {
      // true and false are schemas as well.
      return {};
    }
    let schema: JsonObject = given;
    let followed = chain;
    if (typeof schema.$ref === 'string') {
      const { $ref, ...beside } = schema;
      const depth = chain.filter((one) => one === $ref).length;
      const target = depth < DEEPEST ? this.#target($ref as string) : undefined;
      if (target === undefined) {
        this.lost.push(
          `${at || 'the whole'}: a reference that ${depth < DEEPEST ? 'cannot be resolved' : 'is recursive'}`,
        );
        return { ...this.#plain(beside, at, chain) };
      }
      schema = { ...target, ...beside };
      followed = [...chain, $ref as string];
    }
    return this.#plain(schema, at, followed);
  }

  #plain(schema: JsonObject, at: string, chain: readonly string[]): JsonObject {
    const flat = this.#flattened(schema, at, chain);
    const out: JsonObject = {};
    const words: string[] = [];
    for (const [keyword, value] of Object.entries(flat)) {
      if (['$defs', 'definitions', '$schema', '$id', '$ref', '$comment'].includes(keyword)) continue;
      if (keyword === 'properties' && isObject(value)) {
        const inner: JsonObject = {};
        for (const [name, one] of Object.entries(value)) setOwn(inner, name, this.fit(one, `${at}/${name}`, chain));
        out.properties = inner;
      } else if (keyword === 'items' && !Array.isArray(value)) out.items = this.fit(value, `${at}/items`, chain);
      else if (keyword === 'prefixItems' && Array.isArray(value) && !this.refused.keywords.has(keyword))
        out.prefixItems = value.map((one, index) => this.fit(one, `${at}/${index}`, chain));
      else if ((UNIONS as readonly string[]).includes(keyword) && Array.isArray(value)) {
        const options = value.map((one) => this.fit(one, at, chain));
        this.#union(out, words, keyword, options, at);
      } else if (this.refused.keywords.has(keyword)) this.#inWords(words, keyword, value, at);
      else if (keyword === 'additionalProperties' && isObject(value))
        out.additionalProperties = this.fit(value, `${at}/*`, chain);
      else out[keyword] = value;
    }
    this.#types(out);
    this.#enums(out, words, at);
    this.#formats(out, words, at);
    if (words.length > 0) out.description = [out.description, ...words].filter(Boolean).join(' ');
    return out;
  }

  /** What all of several hold at once is one schema with all of it. */
  #flattened(schema: JsonObject, at: string, chain: readonly string[]): JsonObject {
    if (!Array.isArray(schema.allOf)) return schema;
    const { allOf, ...rest } = schema;
    const merged: JsonObject = { ...rest };
    for (const part of allOf as Json[]) {
      const one = this.fit(part, at, chain);
      for (const [keyword, value] of Object.entries(one)) {
        if (keyword === 'properties')
          merged.properties = { ...(merged.properties as JsonObject), ...(value as JsonObject) };
        else if (keyword === 'required')
          merged.required = [...new Set([...((merged.required as Json[]) ?? []), ...(value as Json[])])];
        else if (keyword === 'description') merged.description = [merged.description, value].filter(Boolean).join(' ');
        else merged[keyword] ??= value;
      }
    }
    return merged;
  }

  #union(out: JsonObject, words: string[], keyword: string, options: JsonObject[], at: string): void {
    if (at === '' && !this.refused.unionOnTop) {
      // All of the properties are allowed; the description lists which belong together.
      const properties = Object.assign({}, ...options.map((one) => (one.properties as JsonObject) ?? {})) as JsonObject;
      out.properties = { ...properties, ...((out.properties as JsonObject) ?? {}) };
      const sets = options.map((one) => (Array.isArray(one.required) ? one.required.join(', ') : '')).filter(Boolean);
      if (sets.length > 0) words.push(`Supply one of these sets together: ${sets.join('; or ')}.`);
      this.lost.push('the whole: alternatives that exclude one another');
      return;
    }
    const name = this.refused.keywords.has(keyword) ? 'anyOf' : keyword;
    const rest = options.filter((one) => one.type !== 'null');
    if (this.refused.nullable && rest.length < options.length) out.nullable = true;
    if (this.refused.nullable && rest.length === 1 && rest.length < options.length) Object.assign(out, rest[0]);
    else out[name] = this.refused.nullable ? rest : options;
  }

  #inWords(words: string[], keyword: string, value: Json, at: string): void {
    const text = inWords(keyword, value);
    if (text === null) return;
    words.push(text);
    this.lost.push(`${at || 'the whole'}: ${keyword}`);
  }

  #types(out: JsonObject): void {
    if (!this.refused.nullable || !Array.isArray(out.type)) return;
    const types = out.type.filter((type) => type !== 'null');
    if (types.length < out.type.length) out.nullable = true;
    if (types.length === 1) out.type = types[0]!;
    else {
      delete out.type;
      out.anyOf = types.map((type) => ({ type }));
    }
  }

  #enums(out: JsonObject, words: string[], at: string): void {
    if (!this.refused.textEnums) return;
    if (out.const !== undefined) {
      out.enum = [out.const];
      delete out.const;
    }
    if (!Array.isArray(out.enum) || out.enum.every((value) => typeof value === 'string')) return;
    words.push(`One of ${out.enum.map((value) => JSON.stringify(value)).join(', ')}.`);
    this.lost.push(`${at || 'the whole'}: enum`);
    delete out.enum;
  }

  #formats(out: JsonObject, words: string[], at: string): void {
    const { formats } = this.refused;
    if (!formats || typeof out.format !== 'string' || formats.has(out.format)) return;
    words.push(FORMATS[out.format] ?? `In the format ${out.format}.`);
    this.lost.push(`${at || 'the whole'}: format ${out.format}`);
    delete out.format;
  }

  #target(reference: string): JsonObject | undefined {
    if (!reference.startsWith('#')) return undefined;
    const parts = decodeURIComponent(reference.slice(1)).split('/').slice(1);
    let found: Json | undefined = this.root;
    for (const part of parts) {
      const name = part.replaceAll('~1', '/').replaceAll('~0', '~');
      found = isObject(found) && Object.hasOwn(found, name) ? found[name] : undefined;
    }
    return isObject(found) ? found : undefined;
  }
}

const FORMATS: Record<string, string> = {
  date: 'A date, as in 2027-02-14.',
  time: 'A time of day, as in 06:30:00.',
  'date-time': 'A date-time, as in 2027-02-14T06:00:00Z.',
  email: 'An email address.',
  uri: 'An address, as in https://huts.example.',
  uuid: 'A UUID.',
};

const text = (value: Json) => (typeof value === 'string' ? value : JSON.stringify(value));

/** What a keyword says, as a sentence; null where it says nothing that a model could heed. */
function inWords(keyword: string, value: Json): string | null {
  switch (keyword) {
    case 'pattern':
      return `Matches the pattern ${text(value)}.`;
    case 'const':
      return `Always ${text(value)}.`;
    case 'default':
      return `${text(value)} by default.`;
    case 'examples':
      return Array.isArray(value) ? `For example ${value.map(text).join(', ')}.` : null;
    case 'multipleOf':
      return `A multiple of ${text(value)}.`;
    case 'exclusiveMinimum':
      return `More than ${text(value)}.`;
    case 'exclusiveMaximum':
      return `Less than ${text(value)}.`;
    case 'uniqueItems':
      return value === true ? 'No duplicate items.' : null;
    case 'additionalProperties':
      return value === false ? null : 'Additional fields are allowed.';
    case 'not':
      return `Does not match ${text(value)}.`;
    case 'if':
    case 'then':
    case 'else':
    case 'dependentRequired':
    case 'dependentSchemas':
    case 'patternProperties':
    case 'propertyNames':
    case 'contains':
    case 'prefixItems':
      return `Additionally, ${keyword} of its schema applies: ${text(value)}.`;
    default:
      return null;
  }
}
