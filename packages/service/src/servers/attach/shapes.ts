import { isObject, type JsonObject } from '@pindro/core';
import { z } from 'zod';

/*
 * Only as much of the protocol's shapes as is used, so that one odd tool does not cost the whole list: the SDK's own
 * schemas refuse a list for one invalid output schema.
 */
const object = z.custom<JsonObject>(isObject);
export const toolList = z.looseObject({ tools: z.array(z.unknown()), nextCursor: z.string().optional() });
export const toolShape = z.object({
  name: z.string(),
  title: z.string().optional().catch(undefined),
  description: z.string().optional().catch(undefined),
  inputSchema: object.catch({ type: 'object' }),
  outputSchema: object.optional().catch(undefined),
  _meta: object.optional().catch(undefined),
  execution: object.optional().catch(undefined),
  annotations: object.optional().catch(undefined),
  icons: z.array(object).max(8).optional().catch(undefined),
});
export const callResult = z.looseObject({
  content: z.array(object).default([]),
  structuredContent: object.optional().catch(undefined),
  isError: z.boolean().default(false),
  _meta: object.optional().catch(undefined),
});

export const logMessage = z.looseObject({ level: z.string(), logger: z.string().optional(), data: z.unknown() });
/** Levels of RFC 5424, as the protocol has them. */
export const LEVELS: Record<string, 'warning' | 'error'> = {
  ...{ warning: 'warning', error: 'error', critical: 'error', alert: 'error', emergency: 'error' },
};
