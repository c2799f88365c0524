import { REVIEW_RULES } from './rules/registry.js';
import type { Fix, ReviewedTool, Suggestion } from './suggestion.js';

/**
 * Reviews a tool list from the perspective of a model. Pure: equal lists have equal suggestions.
 * @param tools as a model reads them
 * @returns suggestions; those that hurt first
 */
export function reviewTools(tools: readonly ReviewedTool[]): Suggestion[] {
  const suggestions = REVIEW_RULES.flatMap((rule) =>
    rule.look(tools).map(
      (found): Suggestion => ({
        id: [rule.code, found.tool, found.argument].filter((part) => part !== null).join('/'),
        code: rule.code,
        ...found,
      }),
    ),
  );
  return suggestions.sort((a, b) => Number(a.weight !== 'hurts') - Number(b.weight !== 'hurts'));
}

/**
 * Returns the suggestions that can be applied together: the first one for each tool, because it may resolve the next
 * one.
 * @param suggestions of a review
 * @param applied IDs that were applied already
 * @param wanted ids
 * @returns suggestions with a tool and a fix, one per tool
 */
export function nextOfEach(
  suggestions: readonly Suggestion[],
  applied: readonly string[],
  wanted: readonly string[] | null,
): (Suggestion & { tool: string; fix: Fix })[] {
  const [done, chosen] = [new Set(applied), wanted && new Set(wanted)];
  const first = new Map<string, Suggestion & { tool: string; fix: Fix }>();
  for (const reviewSuggestion of suggestions) {
    const { id, tool, fix } = reviewSuggestion;
    if (tool === null || fix === null || first.has(tool) || done.has(id) || (chosen && !chosen.has(id))) continue;
    first.set(tool, { ...reviewSuggestion, tool, fix });
  }
  return [...first.values()];
}
