import { letOthers } from '@pindro/core';
import { and, gt, gte, isNull } from 'drizzle-orm';
import type { Database } from '../../platform/database/open.js';
import { runs } from '../tables.js';

const HOUR = 3600 * 1000;
/** Maximum number of failed flows. */
const MOST_FAILING = 8;

export interface Activity {
  hours: { from: number; done: number; failed: number; other: number }[];
  failing: { flow: string; times: number; run: string }[];
}

/** Runs per batch, yielding in between. */
const AT_ONCE = 500;

/** How runs that nobody but a caller began went, hour by hour up to now. Ids made later sort later, and hold their time. */
export async function activityOf(database: Database, hours: number, now = Date.now()): Promise<Activity> {
  const last = Math.floor(now / HOUR) * HOUR;
  const first = last - (hours - 1) * HOUR;
  const over = Array.from({ length: hours }, (_, index) => ({
    from: first + index * HOUR,
    done: 0,
    failed: 0,
    other: 0,
  }));
  const begins = over.map(({ from }) => idAt(from));
  const failing = new Map<string, { flow: string; times: number; run: string }>();
  for (let after = idAt(first), isFirst = true; ; isFirst = false) {
    const rows = database
      .select({ id: runs.id, flow: runs.flow, state: runs.state })
      .from(runs)
      .where(and(isFirst ? gte(runs.id, after) : gt(runs.id, after), isNull(runs.parentRun)))
      .orderBy(runs.id)
      .limit(AT_ONCE)
      .all();
    for (const { id, flow, state } of rows) {
      const hour = over[begins.findLastIndex((begin) => id >= begin)];
      if (hour) hour[kindOf(state)]++;
      if (kindOf(state) !== 'failed') continue;
      const known = failing.get(flow) ?? { flow, times: 0, run: id };
      failing.set(flow, { flow, times: known.times + 1, run: id });
    }
    if (rows.length < AT_ONCE) break;
    after = rows.at(-1)!.id;
    await letOthers();
  }
  const most = [...failing.values()].sort((a, b) => b.times - a.times).slice(0, MOST_FAILING);
  return { hours: over, failing: most };
}

/** Ids of runs that began at that moment, or later, are not smaller. @param moment in milliseconds since the epoch */
export const idAt = (moment: number) => `r${Math.round(moment).toString(36)}`;
const kindOf = (state: string) =>
  state === 'done' ? 'done' : state === 'failed' || state === 'interrupted' ? 'failed' : 'other';
