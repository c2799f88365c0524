import type { ToolboxEntry } from '../../agent/config.js';
import type { ToolboxTool } from '../../agent/toolbox/extract-toolbox.js';
import { isObject, type JsonObject } from '../../json/json.js';
import type { Fix } from './suggestion.js';

/**
 * Applies the suggestion for one tool of a toolbox, for this agent only.
 * @param toolbox rows as in the document; unchanged
 * @param place of the tool, as {@link toolboxTools} gives it
 * @param fix of a suggestion of {@link reviewTools}
 * @returns null where the toolbox has no place for it: a tool of a server keeps its name
 */
export function applyToolboxReview(
  toolbox: readonly ToolboxEntry[],
  { row, own }: ToolboxTool['place'],
  fix: Fix,
): ToolboxEntry[] | null {
  const entry = toolbox[row] as JsonObject | undefined;
  if (!entry) return null;
  const replace = (changed: JsonObject) =>
    toolbox.map((one, index) => (index === row ? (changed as unknown as ToolboxEntry) : one));
  if ('rename' in fix) return own === null ? replace({ ...entry, name: fix.rename }) : null;
  if (own === null) return replace(mended(entry, fix));
  const tools = isObject(entry.tools) ? entry.tools : {};
  const before = isObject(tools[own]) ? tools[own] : {};
  return replace({ ...entry, tools: { ...tools, [own]: mended(before, fix) } });
}

/** Words of one tool, as a row of a flow or the changes of a server's tool have them. */
function mended(words: JsonObject, fix: Exclude<Fix, { rename: string }>): JsonObject {
  if (!('argument' in fix)) {
    // What was read, and is replaced, began with when to use it.
    const { when: _, ...rest } = words;
    return { ...rest, description: fix.description };
  }
  const { argument, description, schema } = fix;
  const rules = isObject(words.arguments) ? words.arguments : {};
  const rule = rules[argument];
  const asked = isObject(rule) && isObject(rule.ask) ? rule.ask : {};
  const ask = { ...asked, ...(description && { description }), ...(schema && { schema }) };
  return { ...words, arguments: { ...rules, [argument]: { ask } } };
}
