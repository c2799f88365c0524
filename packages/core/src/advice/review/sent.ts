import type { JsonObject } from '../../json/json.js';
import type { ReviewedTool } from './suggestion.js';

/** The part of a tool that a model reads. */
export const asSent = ({
  name,
  description,
  inputSchema,
}: Pick<ReviewedTool, 'name' | 'description' | 'inputSchema'>) => ({ name, description, inputSchema }) as JsonObject;
