import { milliseconds } from '../../text/duration.js';
import type { SourceTool } from '../source.js';

/** Caches results up to this age for read-only tools. The cache separates credentials. */
export const cached = (tool: SourceTool, cache: string): SourceTool =>
  tool.reads
    ? { ...tool, call: (given, calling) => tool.call(given, { ...calling, fresh: milliseconds(cache) }) }
    : tool;
