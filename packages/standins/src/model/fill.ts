import type { Schema, Tool } from './choose.js';
import { meanings, stem } from './words.js';

export interface Background {
  /** The whole request, of which the clause is a part. */
  request: string;
  /** What was said and done before, newest first: texts, and the arguments of earlier calls. */
  earlier: { texts: string[]; calls: Record<string, unknown>[] };
  today: string;
}
export interface Filled {
  values: Record<string, unknown>;
  /** Required arguments that could not be found. */
  missing: { name: string; schema: Schema }[];
}

const MONTHS = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];
/** If a wire format has no date type, its schema describes it as text. */
const IN_WORDS = /\ba date, as in \d{4}-\d\d-\d\d/i;
const ISO_DATE = /\b\d{4}-\d{2}-\d{2}\b/g;
const UNITS = /^(?:kg|kilo|kilos|kilogram|kilograms|g|t|km|m|cm|l|h|hours?|min|minutes?|percent|%)$/i;
const UNIT_STEMS: Record<string, string> = { kilo: 'kg', kilogram: 'kg' };

const typeOf = (schema: Schema) =>
  Array.isArray(schema.type) ? schema.type.find((type) => type !== 'null') : schema.type;

/** Fills a tool's arguments from a clause by type, format and enum; what was said before helps out. */
export function fillArguments(tool: Tool, clause: string, background: Background): Filled {
  const values: Record<string, unknown> = {};
  const missing: Filled['missing'] = [];
  const taken = new Set<string>();
  const required = tool.parameters.required ?? [];
  const entries = Object.entries(tool.parameters.properties ?? {}).sort(
    ([a], [b]) => Number(required.includes(b)) - Number(required.includes(a)),
  );
  for (const [name, schema] of entries) {
    const needed = required.includes(name) || isPointedAt(name, schema, clause);
    const value = findValue({ name, schema, needed }, clause, background, taken);
    if (value !== undefined) values[name] = value;
    else if (required.includes(name)) missing.push({ name, schema });
  }
  return { values, missing };
}

/** Whether a clause means something that was named before: "there", or "that hut". */
function isPointedAt(name: string, schema: Schema, clause: string): boolean {
  if (schema.enum && /\bthere\b/i.test(clause)) return true;
  const meant = /\b(?:that|the same|those)\s+(\w+)/i.exec(clause)?.[1];
  return meant !== undefined && meanings(`${name} ${schema.description ?? ''}`).includes(meanings(meant)[0] ?? '');
}

/** An argument that is looked for. */
interface Sought {
  name: string;
  schema: Schema;
  needed: boolean;
}

function findValue(sought: Sought, clause: string, background: Background, taken: Set<string>): unknown {
  const { name, schema, needed } = sought;
  if (schema.enum) return findEnum(name, schema.enum, clause, background, needed);
  const type = typeOf(schema);
  if (type === 'number' || type === 'integer')
    return (
      findNumber(name, schema, clause, taken) ??
      (needed ? findNumber(name, schema, background.request, taken) : undefined)
    );
  if (type === 'boolean') return findBoolean(name, clause);
  if (
    type === 'string' &&
    (schema.format === 'date' || schema.format === 'date-time' || IN_WORDS.test(schema.description ?? ''))
  )
    return findDate(sought, clause, background, taken);
  if (type === 'string') return findText(name, schema, clause, background, needed);
  return undefined;
}

function findEnum(name: string, allowed: unknown[], clause: string, background: Background, needed: boolean): unknown {
  const inText = (text: string) => {
    const places = allowed
      .map((value) => ({
        value,
        at: text.toLowerCase().search(new RegExp(`\\b${String(value).toLowerCase().replace(/[^\w]/g, '\\$&')}\\b`)),
      }))
      .filter(({ at }) => at >= 0);
    return places.sort((a, b) => a.at - b.at)[0]?.value;
  };
  const said = inText(clause) ?? (needed ? inText(background.request) : undefined);
  if (said !== undefined || !needed) return said;
  const called = background.earlier.calls.map((call) => call[name]).find((value) => allowed.includes(value));
  return called ?? background.earlier.texts.map(inText).find((value) => value !== undefined);
}

function findNumber(name: string, schema: Schema, text: string, taken: Set<string>): number | undefined {
  const bare = text.replace(ISO_DATE, ' ').replace(/\b[A-Za-z]+-\d+\b/g, ' ');
  const own = new Set(meanings(`${name} ${schema.description ?? ''}`));
  const found = [...bare.matchAll(/(?<![\w.])(\d+(?:\.\d+)?)\s*([a-z%]+)?/gi)]
    .map((match) => ({
      value: Number(match[1]),
      word: (match[2] ?? '').toLowerCase(),
      id: `${match[1]}@${match.index}`,
    }))
    .filter(({ id, value }) => !taken.has(id) && (typeOf(schema) !== 'integer' || Number.isInteger(value)));
  const unitOf = (word: string) => UNIT_STEMS[stem(word)] ?? stem(word);
  const fits =
    found.find(({ word }) => word !== '' && (own.has(stem(word)) || own.has(unitOf(word)))) ??
    found.find(({ word }) => !UNITS.test(word));
  if (fits) taken.add(fits.id);
  return fits?.value;
}

function findBoolean(name: string, clause: string): boolean | undefined {
  const words = meanings(name);
  if (!words.every((word) => meanings(clause).includes(word))) return undefined;
  return !/\b(?:no|not|without|don't)\b/i.test(clause);
}

/** Every day a text names, as ISO dates in order. */
export function datesIn(text: string, today: string): string[] {
  const shift = (days: number) =>
    new Date(Date.parse(`${today}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
  const named = new RegExp(
    `\\b(?:(\\d{1,2})(?:st|nd|rd|th)?\\s+(${MONTHS.join('|')})|(${MONTHS.join('|')})\\s+(\\d{1,2}))(?:,?\\s+(\\d{4}))?`,
    'gi',
  );
  const found: { at: number; date: string }[] = [];
  for (const match of text.matchAll(ISO_DATE)) found.push({ at: match.index, date: match[0] });
  for (const match of text.matchAll(/\b(today|tonight|tomorrow|the day after tomorrow)\b/gi))
    found.push({ at: match.index, date: shift(/after/i.test(match[0]) ? 2 : /tomorrow/i.test(match[0]) ? 1 : 0) });
  for (const match of text.matchAll(named)) {
    const month = MONTHS.indexOf((match[2] ?? match[3])!.toLowerCase()) + 1;
    const day = Number(match[1] ?? match[4]);
    const year = Number(match[5] ?? today.slice(0, 4));
    const date = `${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
    found.push({
      at: match.index,
      date: match[5] === undefined && date < today ? `${year + 1}${date.slice(4)}` : date,
    });
  }
  return found.sort((a, b) => a.at - b.at).map(({ date }) => date);
}

function findDate(
  { name, schema, needed }: Sought,
  clause: string,
  background: Background,
  taken: Set<string>,
): string | undefined {
  const free = (text: string) => datesIn(text, background.today).find((date) => !taken.has(date));
  const dates = background.earlier.calls
    .flatMap((call) => Object.values(call))
    .filter((value): value is string => typeof value === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(value));
  const next =
    /\b(?:next|following) (?:day|night)\b|\bday after\b/i.test(clause) && dates[0]
      ? datesIn('tomorrow', dates[0])[0]
      : undefined;
  const date =
    free(clause) ??
    next ??
    (needed
      ? (free(background.request) ??
        background.earlier.calls.map((call) => call[name]).find((value): value is string => typeof value === 'string'))
      : undefined);
  if (date === undefined) return undefined;
  taken.add(date);
  return schema.format === 'date-time' && date.length === 10 ? `${date}T00:00:00Z` : date;
}

function findText(
  name: string,
  schema: Schema,
  clause: string,
  background: Background,
  needed: boolean,
): string | undefined {
  if (schema.pattern) {
    const pattern = new RegExp(schema.pattern.replace(/^\^/, '').replace(/\$$/, ''));
    const all = [clause, background.request, ...(needed ? background.earlier.texts : [])];
    return all.map((text) => pattern.exec(text)?.[0]).find((value) => value !== undefined);
  }
  const quoted = /"([^"]+)"|“([^”]+)”/.exec(clause);
  if (quoted) return quoted[1] ?? quoted[2];
  const label = new RegExp(`\\b(?:${name.replaceAll('_', ' ')}|called|named)\\s*:?\\s+([\\w-]+)`, 'i').exec(clause);
  if (label) return label[1];
  // A recipient of a message receives all of it.
  if (needed && name === 'message') return clause;
  if (/\b(?:what|goods|item|product|contents?|cargo)\b/i.test(`${name} ${schema.description ?? ''}`)) {
    const of = /\b\d[\d.]*\s*\w*\s+of\s+([a-z]+(?:\s(?!(?:to|up|on|for|in|at)\b)[a-z]+)?)/i.exec(clause);
    if (of) return of[1];
  }
  if (!needed) return undefined;
  return /\b(?:query|question|message|text|search|topic|prompt|note)\b/i.test(name) ? clause : undefined;
}
