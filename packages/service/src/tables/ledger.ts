import type { TableAnswer } from '@pindro/core';
import { eq, inArray } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { type Insert, inserter } from '../record/insert.js';
import { ledger } from './ledger-tables.js';

/** Minimum interval between clean-ups of ended runs, in milliseconds. */
const TIDY_EVERY = 1000;
/** Maximum number of parameters of a statement. */
const AT_ONCE = 500;

/** What steps did to tables, kept in the same transaction as the rows until the record has the end of their run. */
export class Ledger {
  readonly #insert: Insert;
  /** Runs with entries here. */
  readonly #runs = new Set<string>();
  #ended: string[] = [];
  #timer: NodeJS.Timeout | null = null;

  constructor(private readonly database: Database) {
    this.#insert = inserter(database, ledger, ['key', 'run', 'at', 'outcome']);
  }

  /** Does a change and enters what came of it; one that was entered before is answered as it was. @param key `run/path/attempt` */
  once(key: string, work: () => TableAnswer): TableAnswer {
    const run = key.slice(0, key.indexOf('/'));
    return this.database.driver
      .transaction(() => {
        const known = this.database.select().from(ledger).where(eq(ledger.key, key)).get();
        if (known) return JSON.parse(known.outcome) as TableAnswer;
        const outcome = work();
        this.#insert({ key, run, at: Date.now(), outcome: JSON.stringify(outcome) });
        this.#runs.add(run);
        return outcome;
      })
      .immediate();
  }

  runEnded(run: string): void {
    if (!this.#runs.delete(run)) return;
    this.#ended.push(run);
    this.#timer ??= setTimeout(() => this.#tidy(), TIDY_EVERY).unref();
  }

  /** Deletes entries from before this start. @param endedOf which of some runs have ended */
  tidy(endedOf: (runs: readonly string[]) => string[]): void {
    const runs = this.database.selectDistinct({ run: ledger.run }).from(ledger).all();
    this.#ended.push(...endedOf(runs.map(({ run }) => run)));
    for (const { run } of runs) if (!this.#ended.includes(run)) this.#runs.add(run);
    this.#tidy();
  }

  close(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#tidy();
  }

  #tidy(): void {
    this.#timer = null;
    const ended = this.#ended;
    this.#ended = [];
    try {
      for (let from = 0; from < ended.length; from += AT_ONCE)
        this.database
          .delete(ledger)
          .where(inArray(ledger.run, ended.slice(from, from + AT_ONCE)))
          .run();
    } catch {
      // Nothing depends on it; the next start tidies up.
    }
  }
}
