import { milliseconds } from '../../duration.js';
import type { SourceTool } from '../source.js';

/** Answers may be as old as that, where the tool only reads. Whoever holds the answers keeps them by credential. */
export const cached = (tool: SourceTool, cache: string): SourceTool =>
  tool.reads
    ? { ...tool, call: (given, calling) => tool.call(given, { ...calling, fresh: milliseconds(cache) }) }
    : tool;
