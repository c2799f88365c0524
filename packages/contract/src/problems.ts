import { findingSchema } from '@pindro/core/browser';
import { z } from 'zod';

const moment = z.iso.datetime();

/** `expected`: no notifications until a day. `recurring`: it was resolved, and occurred again. */
export const problemState = z.enum(['open', 'expected', 'resolved', 'recurring']);
export type ProblemState = z.infer<typeof problemState>;

export const problemSummary = z.object({
  id: z.string().describe('Fingerprint of its findings'),
  code: z.string(),
  severity: findingSchema.shape.severity,
  title: z.string().describe('Most recent occurrence'),
  flow: z.string(),
  state: problemState,
  times: z.number().describe('Number of affected runs'),
  firstAt: moment,
  firstRun: z.string(),
  lastAt: moment,
  lastRun: z.string(),
  sinceRevision: z.number().nullable().describe('First affected revision; null for a draft'),
  until: moment.nullable(),
  note: z.string(),
  by: z.string().nullable().describe('Who last changed its state'),
  changedAt: moment.nullable(),
  waste: z
    .object({ rounds: z.number(), tokens: z.number(), money: z.number() })
    .describe('Wasted on it: model rounds, tokens, and cost in the currency of the prices'),
});
export type ProblemSummary = z.infer<typeof problemSummary>;

const often = z.array(z.object({ name: z.string(), times: z.number() }));
export const problemDetail = problemSummary.extend({
  finding: findingSchema.describe('Most recent occurrence'),
  flows: often,
  tools: often,
  callers: often,
  days: z.array(z.object({ from: moment, times: z.number() })).describe('Occurrences per day'),
  runs: z.array(z.object({ run: z.string(), at: moment, caller: z.string(), revision: z.number().nullable() })),
  toolsChanged: z
    .object({ server: z.string(), at: moment, tools: z.array(z.string()) })
    .nullable()
    .describe("Changes of the server's tools around the first occurrence"),
});
export type ProblemDetail = z.infer<typeof problemDetail>;
