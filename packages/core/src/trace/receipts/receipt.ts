import { z } from 'zod';
import { anyJson } from '../../json/any-json.js';
import { GRANTS } from './grants.js';

/**
 * State of a tool call. `refused`: a person or a rule rejected it, and nothing was done. `unknown`: the service
 * stopped during the call. `waiting`: what it started continues.
 */
export const CALL_STATES = ['done', 'failed', 'refused', 'unknown', 'waiting'] as const;
export type CallState = (typeof CALL_STATES)[number];

/** Who approved a call, when, and what they changed of it. */
export const approvalNote = z.object({
  by: z.string(),
  at: z.string().nullable().describe('Time, as ISO 8601'),
  note: z.string(),
  changed: z
    .record(z.string(), z.object({ from: anyJson.nullable(), to: anyJson.nullable() }))
    .describe('Arguments that the approver changed; null: removed'),
  covers: z.enum(GRANTS).describe('Scope of the approval'),
});
export type ApprovalNote = z.infer<typeof approvalNote>;

/** One line of a receipt: a tool call. */
const receiptLine = z.object({
  tool: z.string(),
  state: z.enum(CALL_STATES),
  arguments: anyJson,
  says: z.string().describe('Outcome, in one line'),
  run: z.string().nullable(),
  approval: approvalNote.optional(),
});
export type ReceiptLine = z.infer<typeof receiptLine>;

/** Evidence for an answer, derived from calls and their results, never from the text of the agent. */
export const receiptSchema = z.object({
  done: z.array(receiptLine).describe('Completed calls with side effects'),
  looked: z.number().describe('Number of read-only calls'),
  open: z
    .array(receiptLine)
    .describe(
      'Calls that failed, were rejected, have an unknown outcome or are waiting; without those that succeeded later',
    ),
  end: z.enum(['answer', 'calls', 'length', 'refusal']).describe('Finish reason of the last answer'),
  contradicts: z.string().nullable().describe('Set if the answer contradicts the calls'),
});
export type Receipt = z.infer<typeof receiptSchema>;

/** What several agents of one run did, as one. */
export function togetherOf(receipts: readonly Receipt[]): Receipt | undefined {
  if (receipts.length < 2) return receipts[0];
  return {
    done: receipts.flatMap(({ done }) => done),
    looked: receipts.reduce((sum, { looked }) => sum + looked, 0),
    open: receipts.flatMap(({ open }) => open),
    end: receipts.at(-1)!.end,
    contradicts: receipts.map(({ contradicts }) => contradicts).find((one) => one !== null) ?? null,
  };
}
