import { meanings } from './words.js';

export interface Tool {
  name: string;
  description: string;
  parameters: Schema;
}
export interface Schema {
  type?: string | string[];
  format?: string;
  enum?: unknown[];
  pattern?: string;
  description?: string;
  properties?: Record<string, Schema>;
  required?: string[];
}

const IN_NAME = 3;
const IN_PROPERTY = 1;
const IN_DESCRIPTION = 1;
/** Below this a clause is not a request for any tool. */
const ENOUGH = 1.5;

/** How often each word occurs among the tools: what all of them say tells none of them apart. */
function rarity(lists: readonly Set<string>[]): (word: string) => number {
  return (word) => 1 / Math.max(1, lists.filter((list) => list.has(word)).length);
}

/** The tool a clause asks for, by its words against names, descriptions and schemas; null when none fits. */
export function selectTool(clause: string, tools: readonly Tool[]): Tool | null {
  const words = [...new Set(meanings(clause))];
  const names = tools.map((tool) => new Set(meanings(tool.name)));
  const descriptions = tools.map((tool) => new Set(meanings(tool.description)));
  const properties = tools.map(
    (tool) =>
      new Set(
        Object.entries(tool.parameters.properties ?? {}).flatMap(([name, schema]) =>
          meanings(`${name} ${schema.description ?? ''}`),
        ),
      ),
  );
  const rare = { names: rarity(names), descriptions: rarity(descriptions), properties: rarity(properties) };
  let best: { tool: Tool; score: number } | null = null;
  for (const [index, tool] of tools.entries()) {
    let score = 0;
    for (const word of words) {
      if (names[index]!.has(word)) score += IN_NAME * rare.names(word);
      if (descriptions[index]!.has(word)) score += IN_DESCRIPTION * rare.descriptions(word);
      if (properties[index]!.has(word)) score += IN_PROPERTY * rare.properties(word);
    }
    if (score > (best?.score ?? 0)) best = { tool, score };
  }
  return best && best.score >= ENOUGH ? best.tool : null;
}

/** The tools that a description wants to have been used first, by the words "after NAME". */
export function toolsBefore(tool: Tool, tools: readonly Tool[]): Tool[] {
  const named = [...tool.description.matchAll(/\bafter\s+["'`]?([A-Za-z][\w-]*)/g)].map((match) =>
    match[1]!.replaceAll('-', '_').toLowerCase(),
  );
  return tools.filter((other) => other !== tool && named.includes(other.name.toLowerCase()));
}

/** Cuts a message into the things it asks for: at sentence ends, at "then", and at "and" before another request. */
export function clausesOf(text: string, tools: readonly Tool[]): string[] {
  const verbs = new Set(tools.flatMap((tool) => meanings(tool.name)));
  const parts = text.split(/[.;!?]+(?:\s+|$)|\n+|,?\s*\b(?:and then|then)\b\s*/i);
  return parts
    .flatMap((part) => {
      const pieces: string[] = [];
      for (const piece of part.split(/,?\s+and\s+/i)) {
        const first = meanings(piece.split(/\s+/).slice(0, 2).join(' '))[0];
        if (pieces.length > 0 && !(first && verbs.has(first))) pieces.push(`${pieces.pop()} and ${piece}`);
        else pieces.push(piece);
      }
      return pieces;
    })
    .map((clause) => clause.trim())
    .filter(Boolean);
}
