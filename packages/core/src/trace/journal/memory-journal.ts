import type { RecordEvent } from '../spans/events.js';
import type { Span } from '../spans/span.js';
import type { JournalEntry } from './journal.js';
import type { JournalStore } from './journal-store.js';

/** A journal that lives as long as the process: for trying flows without a database, and for tests. */
export class MemoryJournal implements JournalStore {
  readonly #entries = new Map<string, JournalEntry[]>();
  readonly #spans: Span[] = [];
  readonly #appended: RecordEvent[] = [];
  commits = 0;

  append(event: RecordEvent): void {
    this.#appended.push(event);
  }

  async commit(_run: string): Promise<void> {
    this.commits++;
    this.#keep();
  }

  async read(run: string): Promise<JournalEntry[]> {
    this.#keep();
    return structuredClone(this.#entries.get(run) ?? []);
  }

  /** Every span, each as it was last told. */
  spans(): Span[] {
    this.#keep();
    return [...this.#spans];
  }

  /** Every entry of every run, in order. */
  entries(): JournalEntry[] {
    this.#keep();
    return [...this.#entries.values()].flat();
  }

  #keep(): void {
    for (const event of this.#appended.splice(0)) {
      if (event.type === 'span') this.#spans.push(event.span);
      else {
        const entries = this.#entries.get(event.entry.run) ?? [];
        this.#entries.set(event.entry.run, entries);
        entries.push(event.entry);
      }
    }
  }
}
