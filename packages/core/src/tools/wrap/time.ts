import { orAborted } from '../../async/abort.js';
import { PindroError } from '../../errors/errors.js';
import { milliseconds } from '../../text/duration.js';
import type { SourceTool } from '../source.js';

/** Gives each call so much time. */
export const timed = (tool: SourceTool, limit: string): SourceTool => ({
  ...tool,
  call: async (given, calling) => {
    const most = milliseconds(limit);
    const late = AbortSignal.timeout(most);
    const signal = AbortSignal.any([calling.signal, late]);
    try {
      const call = tool.call(given, { ...calling, signal, limit: Math.min(most, calling.limit ?? most) });
      return await orAborted(call, signal);
    } catch (error) {
      if (late.aborted && !calling.signal.aborted)
        throw new PindroError('timed_out', { what: tool.name, limit }, { details: { tool: tool.name, limit } });
      throw error;
    }
  },
});
