import { type BuiltIn, gives } from '../built-in/built-in.js';
import type { CallRecord } from '../conversation/conversation.js';
import type { AgentTool } from './toolbox.js';

/** The name of the tool by which a model looks for others. */
export const FIND = 'find_tools';
/** Maximum number of matches. */
const MOST = 5;

const wordsIn = (text: string): string[] =>
  (text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [])
    .filter((word) => word.length > 2)
    .map((word) => word.replace(/(?:ing|ed|es|s)$/, ''));

/** Lets a model say what it needs, and offers it the few tools that fit: for a toolbox too large to be read at once. */
export const findTools = (tools: readonly AgentTool[]): BuiltIn => ({
  name: FIND,
  description: `There are ${tools.length} more tools that are not listed. Describe what you need to do, and matching tools become callable next. Search before you say that something cannot be done.`,
  schema: {
    type: 'object',
    required: ['need'],
    properties: {
      need: { type: 'string', minLength: 1, maxLength: 500, description: 'The task, in a few words' },
    },
  },
  reads: true,
  call: async ({ need }) => {
    const found = fitting(String(need), tools);
    return gives({
      found: found.map(({ name, description }) => ({ name, description: description.slice(0, 300) })),
      ...(found.length === 0 && {
        note: 'No tool matches. Describe the task in other words, or continue without a tool.',
      }),
    });
  },
});

/** By words that tell tools apart: what all of them have says nothing. */
function fitting(need: string, tools: readonly AgentTool[]): AgentTool[] {
  const texts = tools.map(({ name, description, schema }) => ({
    name: new Set(wordsIn(name.replaceAll('_', ' '))),
    rest: new Set(wordsIn(`${description} ${Object.keys((schema.properties as object) ?? {}).join(' ')}`)),
  }));
  const rarity = (word: string) =>
    1 / Math.max(1, texts.filter(({ name, rest }) => name.has(word) || rest.has(word)).length);
  const scored = tools.map((tool, index) => {
    const { name, rest } = texts[index]!;
    const score = [...new Set(wordsIn(need))].reduce(
      (sum, word) => sum + (name.has(word) ? 3 * rarity(word) : 0) + (rest.has(word) ? rarity(word) : 0),
      0,
    );
    return { tool, score };
  });
  const best = Math.max(0, ...scored.map(({ score }) => score));
  return scored
    .filter(({ score }) => score > 0 && score >= best / 4)
    .sort((a, b) => b.score - a.score)
    .slice(0, MOST)
    .map(({ tool }) => tool);
}

/** Names of tools that were found so far in a conversation. */
export function foundIn(calls: readonly CallRecord[]): ReadonlySet<string> {
  const names = calls.flatMap(({ tool, state, data }) => {
    if (tool !== FIND || state !== 'done') return [];
    const { found } = data as { found?: { name: string }[] };
    return (found ?? []).map(({ name }) => name);
  });
  return new Set(names);
}
