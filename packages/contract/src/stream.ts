import { liveEvent } from '@pindro/core/browser';
import { z } from 'zod';
import { RESOURCE_NAMES } from './resource/list.js';
import { outcome, runSummary } from './resources.js';

/** Types of things whose changes the event stream reports. */
export const CHANGING = [
  ...RESOURCE_NAMES,
  'mailbox',
  'client',
  'approval',
  'problem',
  'memory',
  'columns',
  'workshop',
] as const;
export type ChangingThing = (typeof CHANGING)[number];

/** An event of the stream of a run or of the workspace. */
export const streamEvent = z.union([
  z.object({ type: z.literal('run'), run: runSummary }),
  z.object({ type: z.literal('changed'), what: z.enum(CHANGING), name: z.string() }),
  z.object({ type: z.literal('live'), run: z.string(), live: liveEvent }),
  z.object({ type: z.literal('outcome'), outcome }),
]);
export type StreamEvent = z.infer<typeof streamEvent>;
