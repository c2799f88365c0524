import type { ToolSettings } from '../settings.js';
import type { SourceTool } from '../source.js';

/** Other words for the model: a name, a description, when to use it, and how to treat what comes back. */
export function worded(tool: SourceTool, { name, when, description, treat }: ToolSettings): SourceTool {
  const words = { name: name ?? tool.name, description: wordsOf({ when, description }, tool.description) };
  if (treat === undefined) return { ...tool, ...words };
  return {
    ...tool,
    ...words,
    call: async (given, calling) => {
      const answer = await tool.call(given, calling);
      return { ...answer, text: `${answer.text}\n\n(${treat})` };
    },
  };
}

/**
 * Returns the description of a tool for the model, with changes applied.
 * @param change words of the builder
 * @param own description of the tool
 * @returns the description
 */
export function wordsOf(
  change: { when?: string | undefined; description?: string | undefined } | undefined,
  own: string,
): string {
  const description = change?.description ?? own;
  return change?.when ? `${change.when}\n\n${description}` : description;
}
