import { isObject } from '@pindro/core';
import type { Database } from '../platform/database/open.js';
import type { RunStore } from './store.js';

/** Of one run so much text is looked through later, in characters: what went in and out of it first, then of its steps. */
const LONGEST = 16_000;
/** Runs are taken in a few at a time, so that others have their turn: for so long, every so often, in milliseconds. */
const AT_ONCE = 5;
const EVERY = 50;
/** So many wait to be taken in; beyond that the oldest are left out, and found by everything but their words. */
const MOST_WAITING = 50_000;
/** So many of the newest that have the words are looked at. */
export const MOST_FOUND = 5000;

/** What went in and out of runs, to be found by words. It is taken from the record, and masked like that. */
export class RunTexts {
  readonly #waiting = new Set<string>();
  #timer: NodeJS.Timeout | null = null;
  #closed = false;

  constructor(
    private readonly database: Database,
    private readonly runs: RunStore,
  ) {}

  ended(run: string): void {
    if (this.#closed) return;
    this.#waiting.add(run);
    if (this.#waiting.size > MOST_WAITING) this.#waiting.delete(this.#waiting.values().next().value!);
    this.#timer ??= setTimeout(() => this.#takeIn(AT_ONCE), EVERY).unref();
  }

  /** The newest runs that have all of these words, in any order. */
  find(words: string): { runs: string[]; more: boolean } {
    this.#takeIn(1000);
    const wanted = words.match(/[\p{L}\p{N}]+/gu) ?? [];
    if (wanted.length === 0) return { runs: [], more: false };
    // The last word may not be written to its end.
    const query = wanted.map((word, index) => `"${word}"${index === wanted.length - 1 ? '*' : ''}`).join(' ');
    const rows = this.database.driver
      .prepare('SELECT run FROM texts WHERE texts MATCH ? ORDER BY rowid DESC LIMIT ?')
      .all(query, MOST_FOUND + 1) as { run: string }[];
    return { runs: rows.slice(0, MOST_FOUND).map(({ run }) => run), more: rows.length > MOST_FOUND };
  }

  #takeIn(within: number): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    const until = performance.now() + within;
    const { driver } = this.database;
    const insert = driver.prepare('INSERT INTO texts (run, text) VALUES (?, ?) RETURNING rowid');
    const known = driver.prepare('INSERT OR IGNORE INTO text_rows (run, row) VALUES (?, ?)');
    try {
      driver
        .transaction(() => {
          for (const run of this.#waiting) {
            this.#waiting.delete(run);
            const record = this.runs.find(run);
            if (!record) continue;
            const text = textOf([record.head.input, record.result, record.error?.message, ...this.#payloads(run)]);
            if (text) known.run(run, (insert.get(run, text) as { rowid: number }).rowid);
            if (performance.now() > until) break;
          }
        })
        .immediate();
    } catch {
      // Where nothing can be written the record says so; what is left out here is found by everything else.
    }
    if (this.#waiting.size > 0 && !this.#closed) this.#timer = setTimeout(() => this.#takeIn(AT_ONCE), EVERY).unref();
  }

  *#payloads(run: string): Generator<unknown> {
    const record = this.runs.find(run);
    if (!record) return;
    for (const { work, input, output, error } of this.runs.spans([record]))
      if (work !== 'run') yield* [input, output, error?.message];
  }

  close(): void {
    this.#closed = true;
    if (this.#timer) clearTimeout(this.#timer);
    this.#takeIn(200);
  }
}

/** The texts and numbers in values, with spaces between, up to the longest. */
function textOf(values: Iterable<unknown>): string {
  let text = '';
  const take = (value: unknown): void => {
    if (text.length >= LONGEST) return;
    if (typeof value === 'string' || typeof value === 'number')
      text += `${String(value).slice(0, LONGEST - text.length)} `;
    else if (Array.isArray(value)) for (const item of value) take(item);
    else if (isObject(value as never)) for (const item of Object.values(value as object)) take(item);
  };
  for (const value of values) {
    take(value);
    if (text.length >= LONGEST) break;
  }
  return text.trim();
}
