import { and, eq, gt, inArray, isNotNull, isNull, lt, notInArray, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { readHead } from './head.js';
import { markOf } from './run-flags.js';
import {
  documents,
  findings,
  marks,
  pages,
  payloads,
  payloadUses,
  recordTotals,
  runs,
  sightings,
  spent,
  textRows,
} from './tables.js';

const DAY = 24 * 60 * 60_000;
/** How often it is looked whether something is to go, and how long it rests between two small steps, in milliseconds. */
const LOOK_EVERY = 60_000;
const REST = 25;
/** Number of run trees deleted in one step. */
const STEP = 20;
/** Number of file pages released in one step. */
const PAGES = 500;
const BAD = ['failed', 'interrupted'];
/** Maximum age of the reported record size in milliseconds, and number of runs searched for the next to expire. */
const LOOKED_AT = 5000;
const LOOKED_THROUGH = 1000;

export interface RetentionLimits {
  /** Retention of successful and other runs, in days. */
  days: number;
  failedDays: number;
  /** How large the record may grow. */
  bytes: number;
}

/** How much of the record there is, and what is next to go. */
export interface RecordState {
  bytes: number;
  limit: number;
  days: number;
  failedDays: number;
  payloads: { count: number; bytes: number };
  oldest: number | null;
  /** The next run to expire, and when. */
  next: { run: string; at: number } | null;
}

/** Deletes old runs in small steps, and shrinks the file. */
export class Retention {
  #timer: NodeJS.Timeout | null = null;
  #under: Promise<number> | null = null;
  /** Expired runs with active child runs. */
  #held: string[] = [];
  #closed = false;
  /** ID up to which no run of a kind is left to delete. */
  readonly #lookedThrough = { good: '', bad: '' };
  #state: { at: number; is: RecordState } | null = null;

  constructor(
    private readonly database: Database,
    private readonly limits: RetentionLimits,
    /** Deletes related data in the same transaction. */
    private readonly removed: (runs: string[]) => void,
    private readonly now: () => number = Date.now,
  ) {}

  start(): void {
    this.#timer = setInterval(() => void this.prune().catch(() => {}), LOOK_EVERY).unref();
    void this.prune().catch(() => {});
  }

  close(): void {
    this.#closed = true;
    if (this.#timer) clearInterval(this.#timer);
  }

  /** Cached for a few seconds, because the overview asks for each run. */
  state(): RecordState {
    if (!this.#state || this.now() - this.#state.at > LOOKED_AT) this.#state = { at: this.now(), is: this.#look() };
    return this.#state.is;
  }

  #look(): RecordState {
    const { days, failedDays, bytes: limit } = this.limits;
    const kept = this.database.select().from(recordTotals).where(eq(recordTotals.name, 'payloads')).get();
    const oldest = this.database.select({ id: runs.id, head: runs.head }).from(runs).orderBy(runs.id).limit(1).get();
    const next = [this.#oldest([]), this.#oldest(BAD, true)]
      .flatMap((run, index) =>
        run ? [{ run: run.id, at: run.endedAt + (index === 0 ? days : failedDays) * DAY }] : [],
      )
      .sort((a, b) => a.at - b.at)[0];
    return {
      ...{ bytes: this.#size(), limit, days, failedDays },
      payloads: { count: kept?.count ?? 0, bytes: kept?.bytes ?? 0 },
      oldest: oldest ? readHead(oldest.head).startedAt : null,
      next: next ?? null,
    };
  }

  #oldest(states: string[], only = false): { id: string; endedAt: number } | null {
    const oldest = this.database
      .select({ id: runs.id, endedAt: runs.endedAt, state: runs.state })
      .from(runs)
      .where(ROOT)
      .orderBy(runs.id)
      .limit(LOOKED_THROUGH)
      .all();
    const row = oldest.find(({ state }) => (only ? states.includes(state) : !BAD.includes(state)));
    return row && row.endedAt !== null ? { id: row.id, endedAt: row.endedAt } : null;
  }

  /**
   * Deletes what exceeds the limits. Runs once at a time: concurrent callers share the result.
   * @param before also everything that ended before this time
   * @returns the number of deleted runs
   */
  prune(before?: number): Promise<number> {
    this.#under ??= this.#steps(before).finally(() => {
      this.#under = null;
    });
    return this.#under;
  }

  async #steps(before?: number): Promise<number> {
    let gone = 0;
    this.#held = [];
    this.#state = null;
    while (!this.#closed) {
      const trees = this.#next(before);
      if (trees.length === 0) break;
      gone += this.#remove(trees);
      await new Promise((resolve) => setTimeout(resolve, REST));
    }
    this.#state = null;
    if (gone === 0) return 0;
    this.#tidyDocuments();
    while (!this.#closed && this.#free() > PAGES) {
      this.database.driver.exec(`PRAGMA incremental_vacuum(${PAGES})`);
      await new Promise((resolve) => setTimeout(resolve, REST));
    }
    if (!this.#closed) this.database.driver.exec('PRAGMA wal_checkpoint(TRUNCATE)');
    return gone;
  }

  /** The oldest runs that nobody called and that are to go. */
  #next(before: number | undefined): string[] {
    const { days, failedDays, bytes } = this.limits;
    const now = this.now();
    const good = this.#older('good', notInArray(runs.state, BAD), Math.max(now - days * DAY, before ?? 0));
    if (good.length > 0) return good;
    const bad = this.#older('bad', inArray(runs.state, BAD), Math.max(now - failedDays * DAY, before ?? 0));
    if (bad.length > 0 || this.#size() <= bytes) return bad;
    // Still too large: runs that have used most of their time are deleted first, so that neither kind crowds out the
    // other.
    const well = this.#oldestRoots(notInArray(runs.state, BAD));
    const failed = this.#oldestRoots(inArray(runs.state, BAD));
    const share = ([oldest]: typeof well, time: number) => (oldest ? (now - oldest.endedAt!) / time : -1);
    return (share(well, days) >= share(failed, failedDays) ? well : failed).map(({ id }) => id);
  }

  /**
   * Runs of a sort that ended before a moment. Ids sort by time, so that what has been looked through once need not be
   * again: only what has grown old since.
   */
  #older(sort: 'good' | 'bad', which: SQL, moment: number): string[] {
    const from = this.#lookedThrough[sort];
    const until = `r${Math.round(moment).toString(36)}`;
    const found = this.#roots(and(which, gt(runs.id, from), lt(runs.id, until), lt(runs.endedAt, moment)));
    if (found.length === 0 && this.#held.length === 0) this.#lookedThrough[sort] = this.#before(until);
    return found;
  }

  /** An ID, or that of the oldest active run: it may end and be old then. */
  #before(id: string): string {
    const open = this.database
      // Uses the index of open runs, which are few. The plus prevents the primary key from being used.
      .select({ id: sql<string | null>`min(+${runs.id})` })
      .from(runs)
      .where(isNull(runs.endedAt))
      .get();
    return open?.id && open.id < id ? open.id : id;
  }

  #roots(which: SQL | undefined): string[] {
    return this.#oldestRoots(which).map(({ id }) => id);
  }

  #oldestRoots(which: SQL | undefined): { id: string; endedAt: number | null }[] {
    const rows = this.database
      .select({ id: runs.id, endedAt: runs.endedAt })
      .from(runs)
      .where(and(ROOT, which, notInArray(runs.id, this.#held)));
    return rows.orderBy(runs.id).limit(STEP).all();
  }

  /** A run is deleted with its child runs, unless one of them is active. */
  #remove(roots: readonly string[]): number {
    const trees = roots.map((root) => this.#tree(root));
    const ids = trees.flatMap(({ ids, open }) => (open ? [] : ids));
    this.#held.push(...trees.flatMap(({ ids: [root], open }) => (open && root !== undefined ? [root] : [])));
    this.database.driver
      .transaction(() => {
        for (let from = 0; from < ids.length; from += 500) this.#removeRuns(ids.slice(from, from + 500));
      })
      .immediate();
    return ids.length;
  }

  #removeRuns(ids: string[]): void {
    const { database } = this;
    database.delete(pages).where(inArray(pages.run, ids)).run();
    database.delete(findings).where(inArray(findings.run, ids)).run();
    database.delete(sightings).where(inArray(sightings.run, ids)).run();
    // Flags are stored by value; those of these runs are deleted per value. Traces of others are as many as calls.
    const traces = database.all<{ trace: string }>(
      sql`SELECT json_extract(${runs.head}, '$.traceId') AS trace FROM ${runs} WHERE ${inArray(runs.id, ids)}`,
    );
    const outside = traces.map(({ trace }) => markOf('trace', trace));
    database
      .delete(marks)
      .where(and(inArray(marks.mark, outside), inArray(marks.run, ids)))
      .run();
    for (const mark of this.#marks())
      database
        .delete(marks)
        .where(and(eq(marks.mark, mark), inArray(marks.run, ids)))
        .run();
    database.run(sql`DELETE FROM texts WHERE rowid IN (SELECT row FROM text_rows WHERE ${inArray(textRows.run, ids)})`);
    database.delete(textRows).where(inArray(textRows.run, ids)).run();
    database.delete(spent).where(inArray(spent.run, ids)).run();
    this.removed(ids);
    const used = database
      .selectDistinct({ hash: payloadUses.hash })
      .from(payloadUses)
      .where(inArray(payloadUses.run, ids))
      .all()
      .map(({ hash }) => hash);
    database.delete(payloadUses).where(inArray(payloadUses.run, ids)).run();
    for (const hash of used) {
      const still = database.select({ run: payloadUses.run }).from(payloadUses).where(eq(payloadUses.hash, hash));
      if (!still.limit(1).get()) database.delete(payloads).where(eq(payloads.hash, hash)).run();
    }
    database.delete(runs).where(inArray(runs.id, ids)).run();
  }

  /** Every mark that there is, each found by skipping the runs of the one before. */
  #marks(): string[] {
    const found: string[] = [];
    for (let last = ''; ; ) {
      const [next] = this.database.all<{ mark: string }>(
        sql`SELECT mark FROM ${marks} WHERE ${marks.mark} > ${last} ORDER BY mark LIMIT 1`,
      );
      if (!next) return found;
      // Past all of the traces at once.
      const isTrace = next.mark.startsWith(TRACES);
      last = isTrace ? `${TRACES}~` : next.mark;
      if (!isTrace) found.push(last);
    }
  }

  #tree(root: string): { ids: string[]; open: boolean } {
    const ids = [root];
    let open = false;
    for (let level = [root]; level.length > 0; ) {
      const children = this.database
        .select({ id: runs.id, endedAt: runs.endedAt })
        .from(runs)
        .where(inArray(runs.parentRun, level))
        .all();
      open ||= children.some(({ endedAt }) => endedAt === null);
      level = children.map(({ id }) => id);
      ids.push(...level);
    }
    return { ids, open };
  }

  /** A document that was last used before the oldest run began is nobody's any more. */
  #tidyDocuments(): void {
    const oldest = this.database.select({ head: runs.head }).from(runs).orderBy(runs.id).limit(1).get();
    const since = oldest ? readHead(oldest.head).startedAt : this.now();
    this.database
      .delete(documents)
      .where(lt(documents.usedAt, since - DAY / 24))
      .run();
  }

  #pragma(name: string): number {
    return Number(Object.values(this.database.driver.prepare(`PRAGMA ${name}`).get() as object)[0]);
  }
  #free(): number {
    return this.#pragma('freelist_count');
  }
  /** What the record takes, less what is free in its file. */
  #size(): number {
    return (this.#pragma('page_count') - this.#free()) * this.#pragma('page_size');
  }
}

const TRACES = markOf('trace', '');
const ROOT = and(isNull(runs.parentRun), isNotNull(runs.endedAt));
