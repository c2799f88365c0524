import { isObject } from '../json/json.js';
import type { ToolResult } from '../ports/ports.js';

/**
 * Returns the text of a tool result for a model: its text blocks, or a description of other content.
 * @param result of a tool
 * @returns a text, never empty
 */
export function resultText(result: ToolResult): string {
  const texts = result.content.map((block) => {
    if (block.type === 'text') return String(block.text);
    if (block.type === 'resource' && isObject(block.resource) && typeof block.resource.text === 'string')
      return block.resource.text;
    if (block.type === 'resource_link') return `${block.name ?? 'resource'}: ${block.uri}`;
    return `(${block.type}${block.mimeType ? `, ${block.mimeType}` : ''})`;
  });
  if (texts.length > 0) return texts.join('\n');
  return result.structuredContent ? JSON.stringify(result.structuredContent) : '(nothing)';
}
