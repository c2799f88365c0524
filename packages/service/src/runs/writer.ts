import { type JournalEntry, type Json, PindroError, type RunHead, type Span, type TraceEvent } from '@pindro/core';
import { eq, getTableColumns, is, Param, type Placeholder, sql } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';
import type { Database } from '../platform/database/open.js';
import { pages, runs } from './tables.js';

type EndedEntry = Extract<JournalEntry, { type: 'ended' }>;

/** What of one run waits to be written. */
interface Page {
  head: RunHead | null;
  sealed: Json | undefined;
  ended: EndedEntry | null;
  /** Whether the run waits for somebody or a time, where that has changed. */
  state: 'running' | 'waiting' | null;
  entries: object[];
  spans: Span[];
}

type Row = Record<string, unknown>;

/** A parameter of a column is wrapped once more, together with how the column encodes it. */
const placeholderIn = (param: unknown): Placeholder =>
  is(param, Param) ? (param.value as Placeholder) : (param as Placeholder);

/** Drizzle writes the statement once; the rows then pass the door without being built into a query each time. */
function inserter(database: Database, table: SQLiteTable, columns: string[]): (row: Row) => void {
  const values = Object.fromEntries(columns.map((column) => [column, sql.placeholder(column)]));
  const { sql: text, params } = database.insert(table).values(values).toSQL();
  const statement = database.door.prepare(text);
  const order = params.map((param) => placeholderIn(param).name);
  return (row) => void statement.run(...order.map((column) => row[column]));
}

/** How long a commit may wait for others to join it while runs are still under way, in milliseconds. */
const GATHER = 2;

/** A run that goes on longer than this is written while it runs, so that others see it and a crash leaves a mark. */
const WRITE_AFTER = 25;

/**
 * Writes journals and spans in groups: everything that is waiting goes into one transaction, so that many runs share
 * the cost of one commit. A short run is written once.
 */
export class RunWriter {
  #pages = new Map<string, Page>();
  #waiting: { resolve: () => void; reject: (error: unknown) => void }[] = [];
  /** Runs that have begun and not ended: those that may still want to join a commit. */
  readonly #underWay = new Set<string>();
  readonly #parked = new Map<string, Set<string>>();
  readonly #frozen = new Set<string>();
  #soon: NodeJS.Immediate | null = null;
  #gather: NodeJS.Timeout | null = null;
  #later: NodeJS.Timeout | null = null;
  readonly #insertRun: (row: Row) => void;
  readonly #insertPage: (row: Row) => void;

  constructor(
    private readonly database: Database,
    private readonly seal: (value: Json) => string,
    /** Told of a run once the record shows that it has begun or ended. */
    private readonly written: (run: string) => void,
  ) {
    this.#insertRun = inserter(database, runs, Object.keys(getTableColumns(runs)));
    this.#insertPage = inserter(database, pages, ['run', 'entries', 'spans']);
  }

  /** Whether a run waits for somebody or a time. */
  waits(run: string): boolean {
    return this.#parked.has(run);
  }

  /** The service stops: runs that wait stand as they are now, to be taken up again, whatever happens to them here. */
  freeze(): void {
    this.flush();
    for (const run of this.#parked.keys()) this.#frozen.add(run);
  }

  emit(event: Exclude<TraceEvent, { type: 'live' }>): void {
    if (this.#frozen.size > 0 && this.#frozen.has(event.type === 'span' ? event.span.run : event.entry.run)) return;
    if (event.type === 'span') this.#pageOf(event.span.run).spans.push(event.span);
    else this.#take(event.entry);
    this.#later ??= setTimeout(() => this.#flushQuietly(), WRITE_AFTER);
  }

  /**
   * Resolves when everything emitted so far is on disk. While other runs are under way it waits a moment for them, so
   * that one transaction serves many; when all are waiting there is nobody left to wait for.
   * @throws storage_failed
   */
  commit(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.#waiting.push({ resolve, reject });
      if (this.#waiting.length >= this.#underWay.size) this.#soon ??= setImmediate(() => this.#flushQuietly());
      else this.#gather ??= setTimeout(() => this.#flushQuietly(), GATHER);
    });
  }

  /** Writes what is waiting, at once. */
  flush(): void {
    if (this.#soon) clearImmediate(this.#soon);
    if (this.#later) clearTimeout(this.#later);
    if (this.#gather) clearTimeout(this.#gather);
    this.#soon = this.#later = this.#gather = null;
    const waiting = this.#pages;
    if (waiting.size === 0) return;
    this.#pages = new Map();
    this.database.door
      .transaction(() => {
        for (const [run, page] of waiting) this.#write(run, page);
      })
      .immediate();
    for (const [run, { head, ended, state }] of waiting) if (head || ended || state) this.written(run);
  }

  #flushQuietly(): void {
    const waiting = this.#waiting;
    this.#waiting = [];
    try {
      this.flush();
      for (const { resolve } of waiting) resolve();
    } catch (error) {
      const failed = new PindroError('storage_failed', { why: (error as Error).message }, { cause: error });
      for (const { reject } of waiting) reject(failed);
    }
  }

  #pageOf(run: string): Page {
    let page = this.#pages.get(run);
    if (!page) {
      page = { head: null, sealed: undefined, ended: null, state: null, entries: [], spans: [] };
      this.#pages.set(run, page);
    }
    return page;
  }

  #take(entry: JournalEntry): void {
    const page = this.#pageOf(entry.run);
    if (entry.type !== 'started') {
      if (entry.type === 'parked') this.#park(entry.run, entry.path, page);
      if (entry.type === 'step_settled') {
        this.#unpark(entry.run, entry.path, page);
        if (entry.sealed)
          return void page.entries.push({ ...entry, sealed: this.seal(entry.sealed as unknown as Json) });
      }
      page.entries.push(entry);
      if (entry.type === 'ended') page.ended = entry;
      return;
    }
    this.#underWay.add(entry.run);
    const { head, sealed, ...rest } = entry;
    page.head = head;
    page.sealed = sealed;
    // The head stands in the run's own row; keeping it twice would double what a short call costs.
    page.entries.push(rest);
  }

  #park(run: string, path: string, page: Page): void {
    const paths = this.#parked.get(run) ?? new Set();
    this.#parked.set(run, paths.add(path));
    page.state = 'waiting';
  }

  /** A run waits until every step of it that waits has settled. */
  #unpark(run: string, path: string, page: Page): void {
    const paths = this.#parked.get(run);
    if (!paths?.delete(path) || paths.size > 0) return;
    this.#parked.delete(run);
    page.state = 'running';
  }

  /** A run goes on after a restart: it is told which of its steps wait. */
  takeUp(run: string, paths: readonly string[]): void {
    this.#underWay.add(run);
    this.#parked.set(run, new Set(paths));
  }

  #update(run: string, change: Partial<typeof runs.$inferInsert>): void {
    this.database.update(runs).set(change).where(eq(runs.id, run)).run();
  }

  #write(run: string, { head, sealed, ended, state, entries, spans }: Page): void {
    const end = ended && {
      state: ended.state,
      endedAt: ended.at,
      outcome: JSON.stringify({ result: ended.result, error: ended.error }),
    };
    const page = { entries: JSON.stringify(entries), spans: JSON.stringify(spans) };
    if (head) {
      this.#insertRun({
        id: run,
        flow: head.flow,
        state: state ?? 'running',
        caller: head.caller.id,
        session: head.session,
        parentRun: head.parentRun,
        endpoint: head.parentRun === null ? (head.through?.endpoint ?? null) : null,
        head: JSON.stringify(head),
        sealed: sealed === undefined ? null : this.seal(sealed),
        endedAt: null,
        outcome: null,
        ...end,
        ...page,
      });
    } else {
      this.#insertPage({ run, ...page });
      if (end || state) this.#update(run, end ?? { state: state! });
    }
    if (ended) {
      this.#underWay.delete(run);
      this.#parked.delete(run);
    }
  }
}
