import { z } from 'zod';
import { errorRecord } from '../../errors/error-record.js';
import { anyJson } from '../../json/any-json.js';
import { runState } from '../spans/states.js';
import { headSchema } from './head.js';

/** What a run waits for. */
export const parkedSchema = z.object({
  for: z.enum(['person', 'time', 'run']),
  until: z.number().nullable().describe('When the wait ends, in milliseconds since the epoch'),
  what: z.string().describe('Description of what the run waits for'),
});
export type Parked = z.infer<typeof parkedSchema>;

/** A value that may hold secrets, with the secrets in it; whoever stores it must encrypt it. */
const sealedSchema = z.object({ value: anyJson, secrets: z.array(z.string()) });
export type Sealed = z.infer<typeof sealedSchema>;

/** Where in the run: the step's name, or STEP/INDEX/STEP inside a loop. */
const path = z.string();
const attempt = z.number();

const BODIES = [
  /**
   * `sealed` is the full input if parts of it are sensitive; the store must encrypt it. `document` is what runs, so
   * that the run can be shown and resumed whatever happens to the flow; store it once for all its runs.
   */
  z.object({
    type: z.literal('started'),
    head: headSchema,
    sealed: anyJson.optional(),
    document: anyJson.optional(),
  }),
  /** Work that cannot be repeated is about to start. `what` describes it. */
  z.object({
    type: z.literal('step_begun'),
    path,
    attempt,
    kind: z.string().optional(),
    what: z.string().optional(),
  }),
  /** An attempt at such work failed for sure, and another one follows. */
  z.object({ type: z.literal('attempt_failed'), path, attempt }),
  z.object({
    type: z.literal('step_settled'),
    path,
    attempt,
    state: z.enum(['done', 'failed', 'skipped']),
    branch: z.string().nullable(),
    output: anyJson,
    /** The whole output, where masking changed it. */
    sealed: sealedSchema.optional(),
    error: errorRecord.optional(),
  }),
  /** The run began another one. Until the step is settled it waits for it, unless that run is on its own. */
  z.object({ type: z.literal('child'), path, child: z.string(), span: z.string() }),
  z.object({ type: z.literal('parked'), path, span: z.string(), ...parkedSchema.shape }),
  z.object({ type: z.literal('unparked'), path }),
  /** The caller has its answer; the run continues. */
  z.object({ type: z.literal('answered'), result: anyJson }),
  /** One entry of an agent's conversation, with what it took to get there (`agent/conversation/conversation.ts`). */
  z.object({ type: z.literal('agent_turn'), path, turn: anyJson, sealed: sealedSchema.optional() }),
  /** As it was kept before conversations survived. */
  z.object({
    type: z.literal('agent_round'),
    path,
    round: z.number(),
    calls: z.array(z.string()),
    tokens: z.number(),
  }),
  /** `receipt`: what the agents of the run did (`agent/claims/receipt.ts`). */
  z.object({
    type: z.literal('ended'),
    state: runState,
    result: anyJson,
    error: errorRecord.optional(),
    receipt: anyJson.optional(),
  }),
] as const;

const bodySchema = z.discriminatedUnion('type', BODIES);
export type JournalBody = z.infer<typeof bodySchema>;

/**
 * One journal entry. The journal is append-only, `(run, sequence)` identifies an entry, and a run can be
 * reconstructed from its entries alone.
 */
export const entrySchema = z.intersection(
  z.object({ run: z.string(), sequence: z.number(), at: z.number() }),
  bodySchema,
);
export type JournalEntry = { run: string; sequence: number; at: number } & JournalBody;
