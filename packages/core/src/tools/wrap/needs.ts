import { PindroError } from '../../errors/errors.js';
import type { SourceTool } from '../source.js';

/** Lets a tool be used only after others have succeeded in the conversation. The model reads which. */
export const after = (tool: SourceTool, needs: readonly string[]): SourceTool => ({
  ...tool,
  description: `${tool.description}\n\nCall it only after ${needs.join(' and ')} succeeded.`.trim(),
  call: (given, calling) => {
    const missing = needs.filter((name) => !calling.succeeded?.has(name));
    if (missing.length === 0) return tool.call(given, calling);
    throw new PindroError(
      'tool_too_early',
      { tool: tool.name, needs: missing.join(' and ') },
      { details: { tool: tool.name, needs: missing } },
    );
  },
});
