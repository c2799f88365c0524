import type { RecordEvent } from '../spans/events.js';
import type { JournalEntry } from './journal.js';

/**
 * Stores journals and spans. Appended entries stay in memory until they are stored: a failed commit loses nothing
 * and affects no other run. `tests/service/journal-store.test.ts` tests every implementation.
 */
export interface JournalStore {
  /** Takes entries and spans in order; must not block or throw. */
  append(event: RecordEvent): void;
  /**
   * Resolves once everything of the run that was appended so far is kept.
   * @throws storage_failed while nothing can be written now, value_unsafe where this run's record never can be
   */
  commit(run: string): Promise<void>;
  /** The journal of a run with decrypted parts; empty if there is no such run. */
  read(run: string): Promise<JournalEntry[]>;
}
