import { z } from 'zod';

/** States of a run. */
export const RUN_STATES = ['queued', 'running', 'waiting', 'done', 'failed', 'cancelled', 'interrupted'] as const;
export const runState = z.enum(RUN_STATES);
export type RunState = z.infer<typeof runState>;

/** Whether drafts or what is live is seen; a property of the run. */
export const STAGES = ['draft', 'live'] as const;
export const stage = z.enum(STAGES);
export type Stage = z.infer<typeof stage>;
