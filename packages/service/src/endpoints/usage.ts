import type { Usage, UsageRow } from '@pindro/contract';
import { emptyHistogram, quantile } from '../metrics/histogram.js';
import type { UseRow } from '../metrics/store.js';

const HOUR = 60 * 60_000;
const DAY = 24 * HOUR;
/** Number of intervals, of an hour at least. */
const PARTS = 28;
const MOST_CALLERS = 10;

/** How often each name comes, the most frequent first. */
function tally(counts: ReadonlyMap<string, number>): [string, number][] {
  // By code unit: of thousands of names a comparison by locale takes a hundred times as long.
  return [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
}

/** How many calls there were, and how they went. */
class Times {
  calls = 0;
  failed = 0;
  readonly #histogram = emptyHistogram();

  add({ calls, failed, histogram }: UseRow): void {
    this.calls += calls;
    this.failed += failed;
    for (let index = 0; index < histogram.length; index++) this.#histogram[index]! += histogram[index]!;
  }

  get summary(): { calls: number; failed: number; p50: number | null; p95: number | null } {
    const { calls, failed } = this;
    return { calls, failed, p50: quantile(this.#histogram, 0.5), p95: quantile(this.#histogram, 0.95) };
  }
}

/** What was counted of one tool, or of all. */
class Sums {
  readonly #times = new Times();
  readonly #counts = { used: new Map<string, number>(), refused: new Map<string, number>() };

  add(row: UseRow): void {
    if (row.of === 'use') {
      this.#times.add(row);
      return;
    }
    const counts = this.#counts[row.of];
    counts.set(row.more, (counts.get(row.more) ?? 0) + row.calls);
  }

  get summary(): Omit<UsageRow, 'tool'> {
    const callers = tally(this.#counts.used).slice(0, MOST_CALLERS);
    return {
      ...this.#times.summary,
      callers: callers.map(([caller, calls]) => ({ caller, calls })),
      refused: tally(this.#counts.refused).map(([argument, often]) => ({ argument, times: often })),
    };
  }
}

/** Who used what in the last days, and how it went: out of sums that were kept while calls ended. */
export function usageOf(rows: readonly UseRow[], days: number, now: number): Usage {
  const from = now - days * DAY;
  const parts = Math.min(PARTS, days * 24);
  const part = (days * DAY) / parts;
  const over = Array.from({ length: parts }, () => new Times());
  const tools = new Map<string, Sums>();
  const total = new Sums();
  for (const row of rows) {
    // An hour belongs where its middle is; that of this hour may still come.
    if (row.of === 'use') over[Math.min(parts - 1, Math.floor((row.hour + HOUR / 2 - from) / part))]?.add(row);
    let sums = tools.get(row.tool);
    if (!sums) tools.set(row.tool, (sums = new Sums()));
    sums.add(row);
    total.add(row);
  }
  return {
    over: over.map((times, index) => ({ from: new Date(from + index * part).toISOString(), ...times.summary })),
    tools: [...tools].map(([tool, sums]) => ({ tool, ...sums.summary })).sort((a, b) => b.calls - a.calls),
    total: total.summary,
  };
}
