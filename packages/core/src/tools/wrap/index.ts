import type { ToolSettings } from '../settings.js';
import type { SourceTool } from '../source.js';
import { cached } from './cache.js';
import { costing } from './cost.js';
import { worded } from './descriptions.js';
import { after } from './needs.js';
import { keeping } from './store-values.js';
import { timed } from './time.js';
import { trimmed } from './trim.js';

/** Combines the wrappers of a tool, innermost first: a wrapper is a file in this folder and a line here. */
export function tamed(tool: SourceTool, settings: ToolSettings | undefined): SourceTool {
  if (!settings) return tool;
  const { cache, limit, cost, keep, result, needs } = settings;
  let own = tool;
  if (cache !== undefined) own = cached(own, cache);
  if (limit !== undefined) own = timed(own, limit);
  if (cost !== undefined) own = costing(own, cost);
  // Of the result, not of the forwarded part.
  if (keep !== undefined) own = keeping(own, keep);
  if (result !== undefined) own = trimmed(own, result);
  own = worded(own, settings);
  return needs === undefined ? own : after(own, needs);
}
