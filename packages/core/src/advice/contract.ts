import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import type { Effects } from '../steps/kind.js';

/** The parts of a flow that its callers rely on. */
export interface Contract {
  description: string;
  /** JSON Schema of what goes in. */
  input: JsonSchema;
  /** JSON Schema of the output, as far as it is certain; null if nothing is. */
  result: JsonSchema | null;
  effects: Effects;
}

/** One difference between two contracts. */
export interface ContractChange {
  /** In one sentence. */
  what: string;
  /** Whether somebody who calls it as before may fail, or be surprised. */
  breaks: boolean;
}

/** Words of a schema that only say more, and hold nobody to anything. */
const ONLY_WORDS = ['description', 'title', 'examples', 'default', '$comment'];

/**
 * Returns the changes between two contracts, breaking ones first.
 * @param before the older contract of a tool
 * @param after the newer one
 * @returns an empty list if callers can continue unchanged
 */
export function contractChanges(before: Contract, after: Contract): ContractChange[] {
  const changes = [
    ...inputChanges(before.input, after.input),
    ...resultChanges(before.result, after.result),
    ...effectChanges(before.effects, after.effects),
    ...(before.description.trim() === after.description.trim() ? [] : [{ what: 'Description changed', breaks: false }]),
  ];
  return [...changes.filter(({ breaks }) => breaks), ...changes.filter(({ breaks }) => !breaks)];
}

const properties = (schema: JsonSchema) => (isObject(schema.properties) ? schema.properties : {});
const required = (schema: JsonSchema) => (Array.isArray(schema.required) ? schema.required.map(String) : []);
const same = (one: Json | undefined, other: Json | undefined) => JSON.stringify(one) === JSON.stringify(other);

function inputChanges(before: JsonSchema, after: JsonSchema): ContractChange[] {
  const old = properties(before);
  const now = properties(after);
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].flatMap((name): ContractChange[] => {
    const was = required(before).includes(name);
    const must = required(after).includes(name);
    if (!(name in now)) return [{ what: `Argument "${name}" was removed`, breaks: true }];
    if (!Object.hasOwn(old, name))
      return must
        ? [{ what: `Required argument "${name}" was added`, breaks: true }]
        : [{ what: `Optional argument "${name}" was added`, breaks: false }];
    return [
      ...(must && !was ? [{ what: `Argument "${name}" is now required`, breaks: true }] : []),
      ...(was && !must ? [{ what: `Argument "${name}" is now optional`, breaks: false }] : []),
      ...valueChanges(`"${name}"`, old[name], now[name]),
    ];
  });
}

function valueChanges(name: string, before: Json | undefined, after: Json | undefined): ContractChange[] {
  if (!isObject(before) || !isObject(after) || same(before, after)) return [];
  const { enum: old, ...was } = before;
  const { enum: fresh, ...is } = after;
  const changes: ContractChange[] = [];
  if (Array.isArray(old) || Array.isArray(fresh)) changes.push(...choiceChanges(name, old, fresh));
  if (!same(was.type, is.type))
    changes.push({
      what: `Type of ${name} changed from ${typeWords(was.type)} to ${typeWords(is.type)}`,
      breaks: true,
    });
  const names = new Set([...Object.keys(was), ...Object.keys(is)]);
  for (const word of names) {
    if (word === 'type' || same(was[word], is[word])) continue;
    if (ONLY_WORDS.includes(word)) {
      if (word === 'description') changes.push({ what: `Description of ${name} changed`, breaks: false });
    } else
      changes.push({ what: `${name}: ${word} changed from ${shown(was[word])} to ${shown(is[word])}`, breaks: true });
  }
  return changes;
}

function choiceChanges(name: string, before: Json | undefined, after: Json | undefined): ContractChange[] {
  const old = Array.isArray(before) ? before : null;
  const now = Array.isArray(after) ? after : null;
  if (!now) return [{ what: `${name} now accepts any value, not only ${shown(before)}`, breaks: false }];
  if (!old) return [{ what: `${name} now accepts only ${shown(after)}`, breaks: true }];
  const gone = old.filter((one) => !now.some((other) => same(one, other)));
  const fresh = now.filter((one) => !old.some((other) => same(one, other)));
  return [
    ...(gone.length > 0 ? [{ what: `${name} no longer accepts ${shown(gone)}`, breaks: true }] : []),
    ...(fresh.length > 0 ? [{ what: `${name} now also accepts ${shown(fresh)}`, breaks: false }] : []),
  ];
}

function resultChanges(before: JsonSchema | null, after: JsonSchema | null): ContractChange[] {
  if (before === null || after === null)
    return same(before, after)
      ? []
      : [
          {
            what: `The result ${after ? 'now has a schema' : 'no longer has a schema'}`,
            breaks: after === null,
          },
        ];
  const old = properties(before);
  const now = properties(after);
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].flatMap((name): ContractChange[] => {
    if (!(name in now)) return [{ what: `Result field "${name}" was removed`, breaks: true }];
    if (!Object.hasOwn(old, name)) return [{ what: `Result field "${name}" was added`, breaks: false }];
    return same(old[name], now[name]) ? [] : [{ what: `Type of result field "${name}" changed`, breaks: true }];
  });
}

function effectChanges(before: Effects, after: Effects): ContractChange[] {
  const said: [keyof Effects, string, string][] = [
    ['writes', 'The tool is no longer read-only', 'The tool is now read-only'],
    ['destroys', 'The tool is now destructive', 'The tool is no longer destructive'],
    [
      'waits',
      'The tool may now wait for a person or a time before it answers',
      'The tool no longer waits before it answers',
    ],
    ['outside', 'The tool now reaches external services', 'The tool no longer reaches external services'],
  ];
  return said.flatMap(([effect, begins, ends]) => {
    if ((before[effect] ?? false) === (after[effect] ?? false)) return [];
    return [{ what: after[effect] ? begins : ends, breaks: after[effect] === true && effect !== 'outside' }];
  });
}

const typeWords = (type: Json | undefined) =>
  type === undefined ? 'any value' : Array.isArray(type) ? type.join(' or ') : String(type);
const shown = (value: Json | undefined): string =>
  value === undefined
    ? 'not set'
    : Array.isArray(value)
      ? value.map((one) => JSON.stringify(one)).join(', ')
      : JSON.stringify(value as JsonObject);
