import { z } from 'zod';
import { anyJson } from '../../json/any-json.js';
import type { JournalEntry } from '../journal/journal.js';
import type { Span } from './span.js';

/** An event that a run passes to the record. */
export type RecordEvent = { type: 'span'; span: Span } | { type: 'journal'; entry: JournalEntry };

/** A live event of a run. Never stored. */
export interface WatchEvent {
  run: string;
  trace: string;
  live: LiveEvent;
}

const path = z.string();
/** One thing that happens in a run, as whoever watches sees it. */
export const liveEvent = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('step'),
    path,
    state: z.enum(['running', 'waiting', 'done', 'failed', 'skipped']),
    ms: z.number().optional(),
  }),
  z.object({ kind: z.literal('text'), path, text: z.string() }),
  z.object({
    kind: z.literal('call'),
    path,
    id: z.string(),
    tool: z.string(),
    label: z.string(),
    arguments: anyJson,
  }),
  z.object({
    kind: z.literal('progress'),
    path,
    tool: z.string(),
    progress: z.number(),
    total: z.number().nullable(),
    message: z.string(),
  }),
  z
    .object({ kind: z.literal('said'), path, tool: z.string(), level: z.string(), text: z.string() })
    .describe('What a server said while its tool worked, at a level of RFC 5424'),
  z.object({
    kind: z.literal('called'),
    path,
    id: z.string(),
    tool: z.string(),
    failed: z.boolean(),
    text: z.string(),
    run: z.string().nullable(),
  }),
]);
export type LiveEvent = z.infer<typeof liveEvent>;

export interface WatchPort {
  /** Shows an event to whoever watches; must not block or throw. */
  show(event: WatchEvent): void;
}
