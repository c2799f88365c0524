import type { ToolChoice } from '@pindro/contract/light';
import { isObject, type Json, type JsonObject, select } from '@pindro/core/browser';

/** One row of a toolbox as its document has it. */
export type Row = JsonObject;
export const rowsOf = (toolbox: Json | undefined): Row[] => (Array.isArray(toolbox) ? toolbox.filter(isObject) : []);

export type From = ToolChoice['from'];
const FROM: From[] = ['server', 'endpoint', 'flow'];

/** Where the tools of a row come from. */
export function originOf(row: Row): { from: From; source: string } | null {
  const from = FROM.find((one) => typeof row[one] === 'string');
  return from ? { from, source: String(row[from]) } : null;
}

const patternsOf = (row: Row): string[] => (Array.isArray(row.use) ? row.use.map(String) : []);
const isName = (pattern: string) => !pattern.includes('*');
/** Means "no tools": an empty list would mean all of them. */
const NONE = '!*';

/** Which of the known tools a row includes. */
export const chosenOf = (row: Row, known: readonly string[]): string[] =>
  'flow' in row ? [...known] : select(known, patternsOf(row)).chosen;
/** Patterns of a row that fit none of them. */
export const idleOf = (row: Row, known: readonly string[]): string[] =>
  'flow' in row || known.length === 0 ? [] : select(known, patternsOf(row)).idle.filter((one) => `!${one}` !== NONE);

/** Whether future tools of its source are included automatically. */
export function takesLater(row: Row): boolean {
  const patterns = patternsOf(row);
  const takes = patterns.filter((one) => !one.startsWith('!'));
  return !patterns.includes(NONE) && (takes.length === 0 || takes.some((one) => !isName(one)));
}

function withPatterns(row: Row, patterns: readonly string[]): Row {
  const { use: _, ...rest } = row;
  return patterns.length > 0 ? { ...rest, use: [...patterns] } : rest;
}

/** Returns the row with future tools included, or restricted to the present selection. */
export function withLater(row: Row, later: boolean, known: readonly string[]): Row {
  const chosen = chosenOf(row, known);
  if (!later) return withPatterns(row, chosen.length > 0 ? chosen : [NONE]);
  const left = known.filter((name) => !chosen.includes(name));
  return withPatterns(
    row,
    left.map((name) => `!${name}`),
  );
}

/** The row with one tool of it on or off. */
export function withTool(row: Row, tool: string, on: boolean, known: readonly string[]): Row {
  const patterns = patternsOf(row).filter((one) => one !== tool && one !== `!${tool}` && (!on || one !== NONE));
  const bare = withPatterns(row, patterns);
  const wasNames = patternsOf(row).length > 0 && !takesLater(row);
  if (wasNames) {
    const next = on ? [...patterns, tool] : patterns;
    return withPatterns(row, next.some((one) => !one.startsWith('!')) ? next : [NONE]);
  }
  const isOn = chosenOf(bare, known).includes(tool);
  if (isOn === on) return bare;
  return withPatterns(row, [...patterns, on ? tool : `!${tool}`]);
}

/** The row with other patterns; names in it stay. */
export const withUse = (row: Row, patterns: readonly string[]): Row => withPatterns(row, patterns);
export const useOf = patternsOf;

/** Whether the tools of a row are offered. */
export const isOn = (row: Row): boolean => row.off !== true;
export function withOn(row: Row, on: boolean): Row {
  const { off: _, ...rest } = row;
  return on ? rest : { ...rest, off: true };
}

/** What is set for one tool of a row. */
export function settingsOf(row: Row, tool: string): JsonObject {
  if ('flow' in row) {
    const { flow: _, off: __, ...settings } = row;
    return settings;
  }
  const own = isObject(row.tools) && Object.hasOwn(row.tools, tool) ? row.tools[tool] : undefined;
  return isObject(own) ? own : {};
}

export function withSettings(row: Row, tool: string, settings: JsonObject): Row {
  if ('flow' in row) return { flow: row.flow!, ...(row.off === true && { off: true }), ...settings };
  const { tools: before, ...rest } = row;
  const tools: JsonObject = { ...(isObject(before) ? before : {}), [tool]: settings };
  if (Object.keys(settings).length === 0) delete tools[tool];
  return Object.keys(tools).length > 0 ? { ...rest, tools } : rest;
}

/** The toolbox with one more tool; a source that is there already gets it in its row. */
export function withChoice(rows: readonly Row[], { from, source, tool }: ToolChoice, known: readonly string[]): Row[] {
  const at = rows.findIndex((row) => {
    const origin = originOf(row);
    return origin?.from === from && origin.source === source;
  });
  if (from === 'flow') return at < 0 ? [...rows, { flow: source }] : [...rows];
  if (at < 0) return [...rows, { [from]: source, use: [tool] }];
  return rows.map((row, index) => (index === at ? withTool(row, tool, true, known) : row));
}

/** The toolbox without a tool; a row that holds nothing any more goes too. */
export function withoutChoice(
  rows: readonly Row[],
  { from, source, tool }: ToolChoice,
  known: readonly string[],
): Row[] {
  return rows.flatMap((row) => {
    const origin = originOf(row);
    if (origin?.from !== from || origin.source !== source) return [row];
    if (from === 'flow') return [];
    const next = withTool(row, tool, false, known);
    return chosenOf(next, known).length > 0 ? [next] : [];
  });
}

/** What is unusual about a tool, in a few words each. */
export function wordsOn(settings: JsonObject): string[] {
  const rules = isObject(settings.arguments) ? Object.entries(settings.arguments) : [];
  const set = rules.filter(([, rule]) => isObject(rule) && 'set' in rule).map(([name]) => name);
  const left = rules.filter(([, rule]) => rule === 'omit').map(([name]) => name);
  return [
    ...(settings.name ? [`called ${String(settings.name)}`] : []),
    ...(settings.when || settings.description ? ['custom description'] : []),
    ...(set.length > 0 ? [`${set.join(', ')} set`] : []),
    ...(left.length > 0 ? [`${left.join(', ')} omitted`] : []),
    ...(settings.approval && settings.approval !== 'none' ? ['requires approval'] : []),
    ...(settings.calls ? [`at most ${String(settings.calls)}`] : []),
    ...(settings.needs ? [`after ${[settings.needs].flat().join(', ')}`] : []),
    ...(settings.result ? ['trimmed'] : []),
    ...(settings.limit ? [`within ${String(settings.limit)}`] : []),
    ...(settings.cache ? [`cached for ${String(settings.cache)}`] : []),
    ...(settings.cost !== undefined ? ['costs'] : []),
  ];
}
