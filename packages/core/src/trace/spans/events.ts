import type { Json } from '../../json/json.js';
import type { JournalEntry } from '../journal/journal.js';
import type { Span } from './span.js';

/** What a run hands to the record. */
export type RecordEvent = { type: 'span'; span: Span } | { type: 'journal'; entry: JournalEntry };

/** What a run shows to whoever watches; never stored. */
export interface WatchEvent {
  run: string;
  trace: string;
  live: LiveEvent;
}

export type LiveEvent =
  | { kind: 'step'; path: string; state: 'running' | 'waiting' | 'done' | 'failed' | 'skipped'; ms?: number }
  | { kind: 'text'; path: string; text: string }
  | { kind: 'call'; path: string; id: string; tool: string; label: string; arguments: Json }
  | { kind: 'progress'; path: string; tool: string; progress: number; total: number | null; message: string }
  /** What a server said while its tool worked, at a level of RFC 5424. */
  | { kind: 'said'; path: string; tool: string; level: string; text: string }
  | { kind: 'called'; path: string; id: string; tool: string; failed: boolean; text: string; run: string | null };

export interface WatchPort {
  /** Shows an event to whoever watches; must not block or throw. */
  show(event: WatchEvent): void;
}
