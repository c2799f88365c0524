import { isObject, type Json } from '../../json/json.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { SourceTool } from '../source.js';

/** Notes what a call costs: a price, or what a field of the result says. */
export const costing = (tool: SourceTool, cost: number | string): SourceTool => ({
  ...tool,
  call: async (given, calling) => {
    const answer = await tool.call(given, calling);
    const price = typeof cost === 'number' ? cost : fieldOf(answer.data, cost);
    if (typeof price !== 'number' || !Number.isFinite(price)) return answer;
    calling.span.set({ [attribute.cost]: price });
    return { ...answer, cost: (answer.cost ?? 0) + price };
  },
});

const fieldOf = (data: Json, path: string): Json | undefined =>
  path
    .split('.')
    .reduce<Json | undefined>(
      (part, name) => (isObject(part) && Object.hasOwn(part, name) ? part[name] : undefined),
      data,
    );
