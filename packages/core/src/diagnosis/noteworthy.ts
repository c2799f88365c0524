import { isObject } from '../json/json.js';
import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';

const NOTED = [
  ...[attribute.unreachable, attribute.idlePatterns, attribute.heldTools, attribute.unfit],
  ...[attribute.leftOut, attribute.notKept, attribute.cutTo],
];

/**
 * Returns whether the diagnosis may comment on a span. Runs without such spans are not diagnosed, which keeps
 * healthy runs cheap.
 * @param span of a run
 * @returns true if a rule may have a finding about it
 */
export function isRemarkable({ error, work, attributes, output }: Span): boolean {
  if (error) return true;
  if (work === 'step') {
    if (attributes[attribute.kind] === 'choose') return attributes[attribute.branch] === 'otherwise';
    if (!isObject(output)) return false;
    return output.count === 0 || (Array.isArray(output.refused) && output.refused.length > 0);
  }
  // The beginning of a result that was longer than what a model is handed.
  if (work === 'tool' && isObject(output) && output.cut === true) return true;
  const tools = attributes[attribute.tools];
  if (work === 'agent' && Array.isArray(tools) && tools.length === 0) return true;
  if (work !== 'agent' && work !== 'model' && work !== 'tool') return false;
  return NOTED.some((name) => attributes[name] !== undefined);
}
