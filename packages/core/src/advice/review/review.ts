import type { Fix, Remark, ReviewedTool } from './remark.js';
import { REVIEW_RULES } from './rules/registry.js';

/** Says what is wrong with a tool list for the model that reads it. Pure: the same list gives the same suggestions. */
export function reviewTools(tools: readonly ReviewedTool[]): Remark[] {
  const suggestions = REVIEW_RULES.flatMap((rule) =>
    rule.look(tools).map(
      (found): Remark => ({
        id: [rule.code, found.tool, found.argument].filter((part) => part !== null).join('/'),
        code: rule.code,
        ...found,
      }),
    ),
  );
  return suggestions.sort((a, b) => Number(a.weight !== 'hurts') - Number(b.weight !== 'hurts'));
}

/** What can be applied at once: the first proposal for each tool, since it may settle the next one. @param wanted ids */
export function nextOfEach(
  suggestions: readonly Remark[],
  applied: readonly string[],
  wanted: readonly string[] | null,
): (Remark & { tool: string; fix: Fix })[] {
  const [done, chosen] = [new Set(applied), wanted && new Set(wanted)];
  const first = new Map<string, Remark & { tool: string; fix: Fix }>();
  for (const remark of suggestions) {
    const { id, tool, fix } = remark;
    if (tool === null || fix === null || first.has(tool) || done.has(id) || (chosen && !chosen.has(id))) continue;
    first.set(tool, { ...remark, tool, fix });
  }
  return [...first.values()];
}
