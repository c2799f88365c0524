import { findingSchema } from '@pindro/core/browser';
import { z } from 'zod';

const moment = z.iso.datetime();

/** `expected`: nobody is told of it until a day. `returned`: it was mended, and came back. */
export const problemState = z.enum(['open', 'expected', 'mended', 'returned']);
export type ProblemState = z.infer<typeof problemState>;

export const problemSummary = z.object({
  id: z.string().describe('The fingerprint of its findings'),
  code: z.string(),
  severity: findingSchema.shape.severity,
  title: z.string().describe('As it was seen last'),
  flow: z.string(),
  state: problemState,
  times: z.number().describe('In how many runs it was seen'),
  firstAt: moment,
  firstRun: z.string(),
  lastAt: moment,
  lastRun: z.string(),
  sinceRevision: z.number().nullable().describe('The revision with which it was first seen; null for a draft'),
  until: moment.nullable(),
  note: z.string(),
  by: z.string().nullable().describe('Who said last what is to become of it'),
  changedAt: moment.nullable(),
  waste: z
    .object({ rounds: z.number(), tokens: z.number(), money: z.number() })
    .describe('Spent for it in vain: rounds of models, their tokens, and money in the currency of the prices'),
});
export type ProblemSummary = z.infer<typeof problemSummary>;

const often = z.array(z.object({ name: z.string(), times: z.number() }));
export const problemDetail = problemSummary.extend({
  finding: findingSchema.describe('As it was seen last'),
  flows: often,
  tools: often,
  callers: often,
  days: z.array(z.object({ from: moment, times: z.number() })).describe('How often, day by day'),
  runs: z.array(z.object({ run: z.string(), at: moment, caller: z.string(), revision: z.number().nullable() })),
  toolsChanged: z
    .object({ server: z.string(), at: moment, tools: z.array(z.string()) })
    .nullable()
    .describe('How the tools of its server changed about when it was first seen'),
});
export type ProblemDetail = z.infer<typeof problemDetail>;
