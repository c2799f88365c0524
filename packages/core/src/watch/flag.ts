import { z } from 'zod';
import { isObject, type JsonSchema } from '../json/json.js';
import type { ToolDescription } from '../ports/ports.js';

/** Something about a tool of somebody else that whoever accepts it should know. */
export const flagSchema = z.object({
  rule: z.string(),
  at: z.string().describe('Location: name, title, description, annotations, or arguments/NAME'),
  says: z.string().describe('What it is, as a sentence'),
  quote: z.string().describe('The text, with invisible parts made visible'),
});
export type Flag = z.infer<typeof flagSchema>;

/** Facts for a rule in addition to the tool. */
export interface FlagFacts {
  server: string;
  /** Tools of the other attached servers. */
  others: readonly { server: string; tool: string }[];
}

/** One rule that looks at one tool: a file here, and a line in the registry. */
export interface FlagRule {
  rule: string;
  about: string;
  /** Whether such a tool is put on hold until somebody accepts it; otherwise it is only reported. */
  holds: boolean;
  look(tool: ToolDescription, facts: FlagFacts): Omit<Flag, 'rule'>[];
}

interface Text {
  at: string;
  text: string;
}
/** Maximum length of the checked text of a tool, in characters; longer text is flagged. */
export const MOST_TEXT = 20_000;

/** Every text of a tool that a model reads, with its location, up to the limit. */
export function textsOf(tool: ToolDescription): Text[] {
  let left = MOST_TEXT;
  return allTexts(tool).flatMap(({ at, text }) => {
    const cut = text.slice(0, left);
    left -= cut.length;
    return cut === '' ? [] : [{ at, text: cut }];
  });
}

export function allTexts(tool: ToolDescription): Text[] {
  const texts = [
    { at: 'name', text: tool.name },
    { at: 'title', text: tool.title ?? '' },
    { at: 'description', text: tool.description ?? '' },
    { at: 'annotations/title', text: textOf(tool.annotations?.title) },
    ...argumentsOf(tool).flatMap(([name, schema]) => [
      { at: `arguments/${name}/name`, text: name },
      ...wordsIn(schema, `arguments/${name}`, 0),
    ]),
    ...wordsIn(tool.outputSchema ?? {}, 'result', 0),
  ];
  return texts.filter(({ text }) => text !== '');
}

/** The arguments of a tool with their schemas. */
export function argumentsOf({ inputSchema }: ToolDescription): [string, JsonSchema][] {
  const { properties } = inputSchema;
  return isObject(properties)
    ? Object.entries(properties).map(([name, schema]) => [name, isObject(schema) ? schema : {}])
    : [];
}

const DEPTH = 6;
/** Schema keywords whose texts a model reads; every text but the description is distinguished. */
const VALUES = ['title', '$comment', 'default', 'const', 'pattern'] as const;
const LISTS = ['enum', 'examples'] as const;
const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');

function wordsIn(schema: JsonSchema, at: string, depth: number): Text[] {
  if (depth > DEPTH) return [];
  const inner = [schema.items, ...(isObject(schema.properties) ? Object.values(schema.properties) : [])];
  const choices = ['anyOf', 'oneOf', 'allOf'].flatMap((key) => (Array.isArray(schema[key]) ? schema[key] : []));
  return [
    { at, text: textOf(schema.description) },
    ...VALUES.map((key) => ({ at: `${at}/${key}`, text: textOf(schema[key]) })),
    ...LISTS.flatMap((key) =>
      (Array.isArray(schema[key]) ? schema[key] : []).map((one) => ({ at: `${at}/${key}`, text: textOf(one) })),
    ),
    ...[...inner, ...choices].flatMap((one) => (isObject(one) ? wordsIn(one, at, depth + 1) : [])),
  ].filter(({ text }) => text !== '');
}

const LONGEST_QUOTE = 160;
const UNSEEN = /[\p{Cc}\p{Cf}\p{Co}\p{Cn}\u{e0000}-\u{e007f}]/gu;

/** The words around a place, with what cannot be seen made visible. */
export function quoteOf(text: string, from: number, length: number): string {
  const start = Math.max(0, from - 40);
  const end = Math.min(text.length, from + length + 60, start + LONGEST_QUOTE);
  const cut = `${start > 0 ? '…' : ''}${text.slice(start, end)}${end < text.length ? '…' : ''}`;
  return visible(cut.replaceAll(/\s+/g, ' '));
}

export const visible = (text: string): string =>
  text.replaceAll(UNSEEN, (one) => `⟨U+${one.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}⟩`);
