import { and, desc, gte, isNull, lt, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { runs } from '../record/tables.js';

const HOUR = 3600 * 1000;
/** So many flows that failed are told. */
const MOST_FAILING = 8;

export interface Activity {
  hours: { from: number; done: number; failed: number; other: number }[];
  failing: { flow: string; times: number; run: string }[];
}

/** How runs that nobody but a caller began went, hour by hour up to now. Ids made later sort later, and hold their time. */
export function activityOf(database: Database, hours: number, now = Date.now()): Activity {
  const last = Math.floor(now / HOUR) * HOUR;
  const from = (back: number) => last - back * HOUR;
  const since = (moment: number) => and(gte(runs.id, idAt(moment)), isNull(runs.parentRun));
  const count = (start: number) =>
    database
      .select({ state: runs.state, count: sql<number>`count(*)` })
      .from(runs)
      .where(and(since(start), lt(runs.id, idAt(start + HOUR))))
      .groupBy(runs.state)
      .all();
  const over = Array.from({ length: hours }, (_, index) => {
    const start = from(hours - 1 - index);
    const row = { from: start, done: 0, failed: 0, other: 0 };
    for (const { state, count: times } of count(start)) row[kindOf(state)] += Number(times);
    return row;
  });
  const failing = database
    .select({ flow: runs.flow, times: sql<number>`count(*)`, run: sql<string>`max(${runs.id})` })
    .from(runs)
    .where(and(since(from(hours - 1)), sql`${runs.state} IN ('failed', 'interrupted')`))
    .groupBy(runs.flow)
    .orderBy(desc(sql`count(*)`))
    .limit(MOST_FAILING)
    .all();
  return { hours: over, failing: failing.map((one) => ({ ...one, times: Number(one.times) })) };
}

/** Ids of runs that began at that moment, or later, are not smaller. @param moment in milliseconds since the epoch */
export const idAt = (moment: number) => `r${Math.round(moment).toString(36)}`;
const kindOf = (state: string) =>
  state === 'done' ? 'done' : state === 'failed' || state === 'interrupted' ? 'failed' : 'other';
