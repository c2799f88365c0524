import type { Json } from '../json.js';
import type { JournalEntry } from './journal.js';
import type { Span } from './span.js';

/** What a run tells while it goes on. */
export type TraceEvent =
  | { type: 'span'; span: Span }
  | { type: 'journal'; entry: JournalEntry }
  /** Shown to whoever watches, never stored. */
  | { type: 'live'; run: string; trace: string; live: LiveEvent };

export type LiveEvent =
  | { kind: 'step'; path: string; state: 'running' | 'waiting' | 'done' | 'failed' | 'skipped'; ms?: number }
  | { kind: 'text'; path: string; text: string }
  | { kind: 'call'; path: string; id: string; tool: string; label: string; arguments: Json }
  | { kind: 'called'; path: string; id: string; tool: string; failed: boolean; text: string; run: string | null };

export interface RecordPort {
  /** Takes events in order; must not block. */
  emit(event: TraceEvent): void;
  /** Resolves once everything emitted so far is on disk. */
  commit(): Promise<void>;
  /** The journal of a run so far, with what was sealed opened; empty where there is no such run. */
  recall(run: string): Promise<JournalEntry[]>;
}
