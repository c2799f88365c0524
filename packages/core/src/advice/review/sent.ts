import type { JsonObject } from '../../json/json.js';
import type { ReviewedTool } from './suggestion.js';

/**
 * Returns the part of a tool that a model reads.
 * @param tool as the review knows it
 * @returns the name, description and input schema alone
 */
export const asSent = ({
  name,
  description,
  inputSchema,
}: Pick<ReviewedTool, 'name' | 'description' | 'inputSchema'>) => ({ name, description, inputSchema }) as JsonObject;
