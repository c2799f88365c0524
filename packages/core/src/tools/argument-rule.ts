import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import type { ArgumentRule } from '../ports/ports.js';
import { lookupSchema } from './lookup-schema.js';

/** Who supplies one argument of a tool. Without a rule it is asked. */
export const argumentRule: z.ZodType<ArgumentRule> = z.union([
  z.literal('omit').describe('Neither offered to the model nor sent'),
  z.literal('ask').describe('Supplied by the model or the calling client'),
  z.strictObject({ set: anyJson.describe('Supplied by the builder; the model never sees the argument') }),
  z.strictObject({
    ask: z.strictObject({
      description: z.string().optional().describe('Replaces the description of the argument'),
      schema: z.record(z.string(), anyJson).optional().describe('Replaces the JSON Schema of the argument'),
      values: lookupSchema.optional().describe('The source that lists its values'),
    }),
  }),
]);
export const argumentRules = z.record(z.string(), argumentRule);
