import type { Remark, ReviewedTool } from './remark.js';
import { REVIEW_RULES } from './rules/registry.js';

/** Says what is wrong with a tool list for the model that reads it. Pure: the same list gives the same remarks. */
export function reviewTools(tools: readonly ReviewedTool[]): Remark[] {
  const remarks = REVIEW_RULES.flatMap((rule) =>
    rule.look(tools).map(
      (found): Remark => ({
        id: [rule.code, found.tool, found.argument].filter((part) => part !== null).join('/'),
        code: rule.code,
        ...found,
      }),
    ),
  );
  return remarks.sort((a, b) => Number(a.weight !== 'hurts') - Number(b.weight !== 'hurts'));
}
