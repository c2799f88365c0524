import { DURATION, ENTRIES } from '@pindro/core/browser';
import { z } from 'zod';
import * as r from '../resources.js';

/** What runs are searched by. */
export const runSearch = z.strictObject({
  flow: z.string().optional(),
  state: r.runState.optional(),
  caller: z.string().optional(),
  session: z.string().optional(),
  roots: z.stringbool().optional(),
  endpoint: z.string().optional(),
  tool: z.string().optional().describe('Tool called in the run, or by which it was called'),
  server: z.string().optional(),
  model: z.string().optional().describe('Model connection that was used'),
  entry: z.enum(ENTRIES).optional().describe('Origin of the run'),
  trace: z.string().optional().describe('Trace ID shared with other participants'),
  finding: z.string().optional().describe('Code of a finding'),
  problem: z.string().optional().describe('Fingerprint of a problem'),
  failed: z.stringbool().optional().describe('Something in it failed, handled or not'),
  since: z.string().optional().describe('Started at or after: a date-time, or an age such as 2h'),
  until: z.string().optional(),
  longer: z.string().regex(DURATION, 'must be a duration such as 5s').optional().describe('Minimum duration'),
  tokens: z.coerce.number().min(0).optional().describe('Minimum number of model tokens'),
  text: z.string().max(200).optional().describe('Contains all of these words in its input or output'),
  cost: z.coerce.number().min(0).optional().describe('Minimum cost'),
});
