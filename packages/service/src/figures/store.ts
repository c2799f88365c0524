import type { Figure, FigureBy } from '@pindro/contract';
import type { RunState } from '@pindro/core';
import { and, eq, gte, like, sql } from 'drizzle-orm';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import { withoutVisitor } from '../platform/visitor-name.js';
import type { RunSums } from '../record/run-sums.js';
import { figures } from '../record/tables.js';
import { addTo, emptyHistogram, quantile } from './histogram.js';
import { readUse, type Use, type UseOf, useNames } from './use.js';

const HOUR = 3_600_000;
/** What was counted is written down this often, in milliseconds; what a kill takes with it is not counted. */
const WRITE_EVERY = 2000;
/** So many names of one kind are counted. */
const MOST = 1000;

interface Sum {
  runs: number;
  failed: number;
  tokens: number;
  cost: number;
  histogram: number[];
}
interface Counted {
  took: number;
  failed: boolean;
  tokens: number;
  cost: number;
}
/** Calls through an endpoint in one hour. */
export interface UseRow {
  of: UseOf;
  tool: string;
  /** Of `used` the caller, of `refused` the argument. */
  more: string;
  hour: number;
  calls: number;
  failed: number;
  histogram: number[];
}
const empty = (): Sum => ({ runs: 0, failed: 0, tokens: 0, cost: 0, histogram: emptyHistogram() });

/** Runs, failures, times, tokens and money by what took part, hour by hour, kept as sums while runs end. */
export class FigureStore {
  /** What was counted since the service began, for whoever scrapes it. */
  readonly total = new Map<string, Sum>();
  readonly #waiting = new Map<string, Sum>();
  #timer: NodeJS.Timeout | null = null;
  #closed = false;

  constructor(private readonly database: Database) {}

  /** A run has ended. Runs that others began count for what they are, not once more for who began them. */
  count(sums: RunSums, state: RunState, now: number): void {
    const { head } = sums;
    if (!head || this.#closed) return;
    const took = Math.max(0, now - head.startedAt);
    const failed = state === 'failed' || state === 'interrupted';
    const hour = Math.floor(head.startedAt / HOUR) * HOUR;
    const own = { took, failed, tokens: sums.tokens, cost: sums.cost };
    this.#add(hour, `flow:${head.flow}`, own);
    if (head.parentRun === null) {
      this.#add(hour, 'all:', own);
      this.#add(hour, `caller:${withoutVisitor(head.caller.id)}`, own);
      if (head.through) {
        const { endpoint, tool } = head.through;
        this.#add(hour, `endpoint:${endpoint}`, own);
        this.#use({ endpoint, tool, caller: head.caller.id, refused: sums.refused }, hour, own);
      }
    }
    for (const { what, ...call } of sums.calls) this.#add(hour, what, call);
    this.#timer ??= setTimeout(() => this.#flushQuietly(), WRITE_EVERY).unref();
  }

  #use(use: Use, hour: number, own: Counted): void {
    for (const what of useNames(use)) this.#add(hour, what, own);
  }

  /** Counts calls of before there were such sums. */
  takeIn(calls: Iterable<Use & { at: number; took: number; failed: boolean }>): void {
    for (const { at, took, failed, ...use } of calls) {
      this.#use(use, Math.floor(at / HOUR) * HOUR, { took, failed, tokens: 0, cost: 0 });
      // Months of them are more than may wait.
      if (this.#waiting.size > MOST) this.flush();
    }
    this.flush();
  }

  /** Whether calls through endpoints were ever counted. */
  hasUse(): boolean {
    return (
      this.database.select({ what: figures.what }).from(figures).where(like(figures.what, 'use:%')).limit(1).all()
        .length > 0
    );
  }

  /** What was counted of calls through endpoints since a moment, hour by hour. */
  use(endpoints: readonly string[], since: number): UseRow[] {
    this.flush();
    const from = Math.floor(since / HOUR) * HOUR;
    return this.database
      .select()
      .from(figures)
      .where(and(gte(figures.hour, from), sql`substr(${figures.what}, 1, 4) IN ('use:', 'used', 'refu')`))
      .all()
      .flatMap(({ hour, what, runs, failed, histogram }) => {
        const read = readUse(what);
        if (!read || !endpoints.includes(read.endpoint)) return [];
        return [{ ...read, hour, calls: runs, failed, histogram: JSON.parse(histogram) as number[] }];
      });
  }

  #add(hour: number, what: string, one: Counted): void {
    for (const [all, key] of [
      [this.#waiting, `${hour} ${what}`],
      [this.total, what],
    ] as const) {
      let sum = all.get(key);
      if (!sum) {
        if (all.size >= MOST * 10) return;
        all.set(key, (sum = empty()));
      }
      sum.runs++;
      if (one.failed) sum.failed++;
      sum.tokens += one.tokens;
      sum.cost += one.cost;
      addTo(sum.histogram, one.took);
    }
  }

  /** Writes down what was counted, and counts no more. */
  close(): void {
    this.flush();
    this.#closed = true;
  }

  /** By itself, where nobody could be told that it did not work. */
  #flushQuietly(): void {
    try {
      this.flush();
    } catch {
      // The database is closed: what was counted since is lost, as by a kill.
    }
  }

  flush(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    if (this.#closed) return;
    // What cannot be written now, because there is no room, is written with what comes later.
    bestEffort(() => {
      this.database.driver
        .transaction(() => {
          for (const [key, sum] of this.#waiting) this.#write(key, sum);
        })
        .immediate();
      this.#waiting.clear();
    });
  }

  #write(key: string, sum: Sum): void {
    const at = key.indexOf(' ');
    const [hour, what] = [Number(key.slice(0, at)), key.slice(at + 1)];
    const where = and(eq(figures.hour, hour), eq(figures.what, what));
    const before = this.database.select().from(figures).where(where).get();
    const histogram = before ? (JSON.parse(before.histogram) as number[]) : emptyHistogram();
    const values = {
      runs: sum.runs + (before?.runs ?? 0),
      failed: sum.failed + (before?.failed ?? 0),
      tokens: sum.tokens + (before?.tokens ?? 0),
      cost: sum.cost + (before?.cost ?? 0),
      histogram: JSON.stringify(sum.histogram.map((count, index) => count + (histogram[index] ?? 0))),
    };
    this.database
      .insert(figures)
      .values({ hour, what, ...values })
      .onConflictDoUpdate({ target: [figures.hour, figures.what], set: values })
      .run();
  }

  /** Figures of the last hours, those with the most runs first. */
  read(by: FigureBy, hours: number, now = Date.now()): Figure[] {
    this.flush();
    const last = Math.floor(now / HOUR) * HOUR;
    const from = last - (hours - 1) * HOUR;
    const rows = this.database
      .select()
      .from(figures)
      .where(and(gte(figures.hour, from), like(figures.what, `${by}:%`)))
      .all();
    const found = new Map<string, { sum: Sum; over: Map<number, { runs: number; failed: number }> }>();
    for (const { hour, what, histogram, ...row } of rows) {
      const name = what.slice(by.length + 1);
      const one = found.get(name) ?? { sum: empty(), over: new Map() };
      found.set(name, one);
      one.sum.runs += row.runs;
      one.sum.failed += row.failed;
      one.sum.tokens += row.tokens;
      one.sum.cost += row.cost;
      (JSON.parse(histogram) as number[]).forEach((count, index) => void (one.sum.histogram[index]! += count));
      one.over.set(hour, { runs: row.runs, failed: row.failed });
    }
    return [...found]
      .map(
        ([
          name,
          {
            sum: { histogram, ...sum },
            over,
          },
        ]) => ({
          ...{ name, ...sum, p50: quantile(histogram, 0.5), p95: quantile(histogram, 0.95) },
          over: Array.from({ length: hours }, (_, index) => {
            const start = from + index * HOUR;
            return { from: new Date(start).toISOString(), ...(over.get(start) ?? { runs: 0, failed: 0 }) };
          }),
        }),
      )
      .sort((a, b) => b.runs - a.runs)
      .slice(0, 200);
  }
}
