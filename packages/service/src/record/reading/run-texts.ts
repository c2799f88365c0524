import { sql } from 'drizzle-orm';
import type { Database } from '../../platform/database/open.js';
import { textRows } from '../tables.js';

/** Duration and interval of indexing, in milliseconds: short enough not to delay calls. */
const SLICE = 2;
const EVERY = 60;
/** Where more runs than this have ended since the last time there is no calm to do it in, as long as there is room to wait. */
const CALM = 10;
/** Maximum time that a search waits for pending text. */
const FOR_A_SEARCH = 150;
/** Maximum pending characters; beyond that the oldest are dropped, and their runs are found by other filters only. */
const MOST_WAITING = 32_000_000;
/** Number of newest matching runs that are checked. */
const MOST_FOUND = 5000;

/** Text of inputs and outputs for searching, masked when it was recorded. */
export class RunTexts {
  readonly #waiting = new Map<string, string>();
  #length = 0;
  #row: number | null = null;
  /** How many runs have ended since it was looked last. */
  #since = 0;
  #timer: NodeJS.Timeout | null = null;
  #closed = false;

  constructor(private readonly database: Database) {}

  ended(run: string, text: string): void {
    if (this.#closed || text === '') return;
    this.#waiting.set(run, text);
    this.#length += text.length;
    this.#since++;
    while (this.#length > MOST_WAITING) this.#take();
    this.#later();
  }

  #later(): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      const isBusy = this.#since > CALM && this.#length < MOST_WAITING / 2;
      this.#since = 0;
      if (isBusy) this.#later();
      else this.#takeIn(SLICE);
    }, EVERY).unref();
  }

  /** The newest runs that have all of these words, in any order. */
  find(words: string): { runs: string[]; more: boolean } {
    this.#takeIn(FOR_A_SEARCH);
    const wanted = words.match(/[\p{L}\p{N}]+/gu) ?? [];
    if (wanted.length === 0) return { runs: [], more: false };
    // The last word may not be written to its end.
    const query = wanted.map((word, index) => `"${word}"${index === wanted.length - 1 ? '*' : ''}`).join(' ');
    const rows = this.database.driver
      .prepare('SELECT run FROM texts WHERE texts MATCH ? ORDER BY rowid DESC LIMIT ?')
      .all(query, MOST_FOUND + 1) as { run: string }[];
    return {
      runs: rows.slice(0, MOST_FOUND).map(({ run }) => run),
      more: rows.length > MOST_FOUND || this.#waiting.size > 0,
    };
  }

  /** Indexes all pending text. */
  settle(): void {
    this.#takeIn(Number.POSITIVE_INFINITY);
  }

  /** Rows are numbered here: a virtual table does not say which number one was given. */
  #nextRow(): number {
    this.#row ??= Number(
      this.database.get<{ row: number | null }>(sql`SELECT max(row) AS row FROM ${textRows}`)?.row ?? 0,
    );
    return ++this.#row;
  }

  /** The one that has waited longest. */
  #take(): [string, string] | undefined {
    for (const one of this.#waiting) {
      this.#waiting.delete(one[0]);
      this.#length -= one[1].length;
      return one;
    }
    return undefined;
  }

  #takeIn(within: number): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    if (this.#waiting.size === 0) return;
    const until = performance.now() + within;
    const { driver } = this.database;
    try {
      const insert = driver.prepare('INSERT INTO texts (rowid, run, text) VALUES (?, ?, ?)');
      const known = driver.prepare('INSERT OR IGNORE INTO text_rows (run, row) VALUES (?, ?)');
      driver
        .transaction(() => {
          for (let one = this.#take(); one; one = performance.now() < until ? this.#take() : undefined) {
            const [run, text] = one;
            const row = this.#nextRow();
            insert.run(row, run, text);
            known.run(run, row);
          }
        })
        .immediate();
    } catch {
      // A storage failure is reported by the record; runs that are dropped here are found by other filters.
    }
    if (this.#waiting.size > 0 && !this.#closed) this.#later();
  }

  /** Deleted runs are not indexed. */
  forget(runs: readonly string[]): void {
    for (const run of runs) {
      this.#length -= this.#waiting.get(run)?.length ?? 0;
      this.#waiting.delete(run);
    }
  }

  close(): void {
    this.settle();
    this.#closed = true;
  }
}
