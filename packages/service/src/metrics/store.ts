import type { Figure, FigureBy } from '@pindro/contract';
import { giveWay, letOthers, type RunState } from '@pindro/core';
import { desc, like } from 'drizzle-orm';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import { withoutVisitor } from '../platform/visitor-name.js';
import type { RunSums } from '../record/run-sums.js';
import { addTo, emptyHistogram, quantile } from './histogram.js';
import { metrics } from './tables.js';
import { readUse, type Use, type UseOf, useNames } from './use.js';

const HOUR = 3_600_000;
/** What was counted is written down this often, in milliseconds; what a kill takes with it is not counted. */
const WRITE_EVERY = 2000;
/** Names written at once, and maximum number of points per name. */
const AT_ONCE = 200;
const MOST_POINTS = 31;
const MOST_RETURNED = 200;
/** Maximum number of counted names per kind. */
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
type Row = Sum & { hour: number; what: string };
type StoredRow = Omit<Row, 'histogram'> & { histogram: string };
/** The hour and the name in a key of what waits. */
function placeOf(key: string): { hour: number; what: string } {
  const at = key.indexOf(' ');
  return { hour: Number(key.slice(0, at)), what: key.slice(at + 1) };
}
const empty = (): Sum => ({ runs: 0, failed: 0, tokens: 0, cost: 0, histogram: emptyHistogram() });

/** Runs, failures, times, tokens and money by what took part, hour by hour, kept as sums while runs end. */
export class MetricStore {
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
    this.#timer ??= setTimeout(() => void this.#flushInParts(), WRITE_EVERY).unref();
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
      this.database.select({ what: metrics.what }).from(metrics).where(like(metrics.what, 'use:%')).limit(1).all()
        .length > 0
    );
  }

  /** What was counted of calls through endpoints since a moment, hour by hour. */
  async use(endpoints: readonly string[], since: number): Promise<UseRow[]> {
    const found: UseRow[] = [];
    for (const of of ['use', 'used', 'refused'] as const)
      for await (const rows of this.#pages(`${of}:`, since))
        for (const { hour, what, runs, failed, histogram } of rows) {
          const read = readUse(what);
          if (read && endpoints.includes(read.endpoint)) found.push({ ...read, hour, calls: runs, failed, histogram });
        }
    return found;
  }

  /**
   * Sums since a moment whose name begins so, with those that wait to be written: reading writes nothing. An hour may come
   * twice. In pages, between which others have their turn.
   */
  async *#pages(prefix: string, since: number): AsyncGenerator<Row[]> {
    const first = Math.floor(since / HOUR) * HOUR;
    // Copied before waiting: later data is read from the table or was included already.
    const waiting = [...this.#waiting]
      .map(([key, sum]) => ({ ...placeOf(key), sum }))
      .filter((one) => one.what.startsWith(prefix) && one.hour >= first)
      .map(({ sum, ...place }) => ({ ...place, ...sum, histogram: [...sum.histogram] }));
    const end = `${prefix.slice(0, -1)};`;
    const last = this.#newestHour();
    for (let at = first; at <= last; at += HOUR) {
      for (let from = prefix, isFirst = true; ; isFirst = false) {
        const rows = this.#page(isFirst ? '>=' : '>').all(at, from, end) as StoredRow[];
        yield rows.map((row) => Object.assign(row, { histogram: JSON.parse(row.histogram) as number[] }));
        await giveWay();
        if (rows.length < AT_ONCE) break;
        from = rows.at(-1)!.what;
      }
    }
    yield waiting;
  }

  /** By hand, as below: a month is hundreds of pages. */
  #page(after: '>' | '>=') {
    return this.database.driver.prepare(
      `SELECT * FROM figures WHERE hour = ? AND what ${after} ? AND what < ? ORDER BY what LIMIT ${AT_ONCE}`,
    );
  }

  #newestHour(): number {
    const newest = this.database
      .select({ hour: metrics.hour })
      .from(metrics)
      .orderBy(desc(metrics.hour))
      .limit(1)
      .get();
    return newest?.hour ?? 0;
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

  /** A part after the other, so that many names keep nobody waiting. Where nobody could be told that it did not work. */
  async #flushInParts(): Promise<void> {
    this.#timer = null;
    try {
      while (!this.#closed && this.#waiting.size > 0) {
        const keys = [...this.#waiting.keys()].slice(0, AT_ONCE);
        if (!this.#writeAll(keys)) return;
        await letOthers();
      }
    } catch {
      // The database is closed: what was counted since is lost, as by a kill.
    }
  }

  /** Writes down all that waits, at once. */
  flush(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    if (!this.#closed) this.#writeAll([...this.#waiting.keys()]);
  }

  /** @returns whether it was written: what cannot be now, because there is no room, is written with what comes later */
  #writeAll(keys: readonly string[]): boolean {
    let written = false;
    bestEffort(() => {
      this.database.driver
        .transaction(() => {
          for (const key of keys) this.#write(key, this.#waiting.get(key)!);
        })
        .immediate();
      for (const key of keys) this.#waiting.delete(key);
      written = true;
    });
    return written;
  }

  #write(key: string, sum: Sum): void {
    const { hour, what } = placeOf(key);
    // By hand: a query is built for each name otherwise, which takes ten times as long.
    const before = this.#find.get(hour, what) as { histogram: string } | undefined;
    const stored = before ? (JSON.parse(before.histogram) as number[]) : [];
    const histogram = JSON.stringify(sum.histogram.map((count, index) => count + (stored[index] ?? 0)));
    this.#upsert.run(hour, what, sum.runs, sum.failed, sum.tokens, sum.cost, histogram);
  }

  get #find() {
    return this.database.driver.prepare('SELECT histogram FROM figures WHERE hour = ? AND what = ?');
  }
  get #upsert() {
    return this.database.driver.prepare(
      `INSERT INTO figures (hour, what, runs, failed, tokens, cost, histogram) VALUES (?, ?, ?, ?, ?, ?, ?)
       ON CONFLICT (hour, what) DO UPDATE SET runs = runs + excluded.runs, failed = failed + excluded.failed,
       tokens = tokens + excluded.tokens, cost = cost + excluded.cost, histogram = excluded.histogram`,
    );
  }

  /** Metrics of the last hours, most runs first. */
  async read(by: FigureBy, hours: number, now = Date.now()): Promise<Figure[]> {
    const last = Math.floor(now / HOUR) * HOUR;
    const from = last - (hours - 1) * HOUR;
    // A long time is divided into steps of several hours, a month into days: nobody reads 720 points, and they are megabytes.
    const piece = Math.ceil(hours / MOST_POINTS) * HOUR;
    const pieces = Math.ceil((hours * HOUR) / piece);
    const found = new Map<string, { sum: Sum; over: Map<number, { runs: number; failed: number }> }>();
    const add = (row: Row) => {
      if (row.hour > last) return;
      const name = row.what.slice(by.length + 1);
      let one = found.get(name);
      if (!one) found.set(name, (one = { sum: empty(), over: new Map() }));
      const { sum, over } = one;
      sum.runs += row.runs;
      sum.failed += row.failed;
      sum.tokens += row.tokens;
      sum.cost += row.cost;
      row.histogram.forEach((count, index) => void (sum.histogram[index]! += count));
      const at = from + Math.floor((row.hour - from) / piece) * piece;
      const point = over.get(at) ?? { runs: 0, failed: 0 };
      over.set(at, { runs: point.runs + row.runs, failed: point.failed + row.failed });
    };
    for await (const rows of this.#pages(`${by}:`, from)) rows.forEach(add);
    await letOthers();
    const starts = Array.from({ length: pieces }, (_, index) => from + index * piece);
    const points = starts.map((start) => ({ start, from: new Date(start).toISOString() }));
    // Sorted before the points are made: of thousands of callers only the first are returned.
    const most = [...found]
      .sort(([, a], [, b]) => b.sum.runs - a.sum.runs)
      .slice(0, MOST_RETURNED)
      .map(([name, { sum, over }]) => {
        const { histogram, ...sums } = sum;
        return {
          ...{ name, ...sums, p50: quantile(histogram, 0.5), p95: quantile(histogram, 0.95) },
          over: points.map(({ start, from }) => ({ from, ...(over.get(start) ?? { runs: 0, failed: 0 }) })),
        };
      });
    await letOthers();
    return most;
  }
}
