import { z } from 'zod';
import { anyJson } from '../json/any-json.js';

export const changeKind = z.enum(['added', 'removed', 'changed']);
export type ChangeKind = z.infer<typeof changeKind>;

/** One difference between two flows. */
export const flowChange = z.object({
  at: z.string().describe('JSON Pointer of what differs'),
  change: changeKind,
  what: z.string().describe('Description for people'),
  before: anyJson.optional(),
  after: anyJson.optional(),
});
export type FlowChange = z.infer<typeof flowChange>;

/** A line of two compared texts: of both, of the second only, or of the first only. */
export const comparedLine = z.object({ sign: z.enum([' ', '+', '-']), text: z.string() });
export type Line = z.infer<typeof comparedLine>;

export const flowComparison = z.object({
  changes: z.array(flowChange),
  steps: z.record(z.string(), changeKind).describe('How each step of either flow differs; equal ones are not listed'),
  lines: z.array(comparedLine),
});
export type FlowComparison = z.infer<typeof flowComparison>;
