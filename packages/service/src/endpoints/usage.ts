import type { Usage, UsageRow } from '@pindro/contract';
import { emptyHistogram, quantile } from '../figures/histogram.js';
import type { UseRow } from '../figures/store.js';

const HOUR = 60 * 60_000;
const DAY = 24 * HOUR;
/** The time is told in so many parts, of an hour at least. */
const PARTS = 28;
const MOST_CALLERS = 10;

const sumOf = (rows: readonly UseRow[], part: 'calls' | 'failed') => rows.reduce((sum, row) => sum + row[part], 0);

/** How often each name comes, the most frequent first. */
function tally(rows: readonly UseRow[]): [string, number][] {
  const counts = new Map<string, number>();
  for (const { more, calls } of rows) counts.set(more, (counts.get(more) ?? 0) + calls);
  // By code unit: of thousands of names a comparison by locale takes a hundred times as long.
  return [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
}

function times(rows: readonly UseRow[]): { calls: number; failed: number; p50: number | null; p95: number | null } {
  const histogram = emptyHistogram();
  for (const row of rows) for (const [index, count] of row.histogram.entries()) histogram[index]! += count;
  return {
    ...{ calls: sumOf(rows, 'calls'), failed: sumOf(rows, 'failed') },
    ...{ p50: quantile(histogram, 0.5), p95: quantile(histogram, 0.95) },
  };
}

function row(rows: readonly UseRow[]): Omit<UsageRow, 'tool'> {
  const of = (kind: UseRow['of']) => rows.filter((one) => one.of === kind);
  return {
    ...times(of('use')),
    callers: tally(of('used'))
      .slice(0, MOST_CALLERS)
      .map(([caller, calls]) => ({ caller, calls })),
    refused: tally(of('refused')).map(([argument, often]) => ({ argument, times: often })),
  };
}

/** Who used what in the last days, and how it went: out of sums that were kept while calls ended. */
export function usageOf(rows: readonly UseRow[], days: number, now: number): Usage {
  const from = now - days * DAY;
  const parts = Math.min(PARTS, days * 24);
  const part = (days * DAY) / parts;
  const all = rows.filter(({ of }) => of === 'use');
  const over = Array.from({ length: parts }, (_, index) => {
    // An hour belongs where its middle is; that of this hour may still come.
    const placeOf = (hour: number) => Math.min(parts - 1, Math.floor((hour + HOUR / 2 - from) / part));
    const within = all.filter(({ hour }) => placeOf(hour) === index);
    return { from: new Date(from + index * part).toISOString(), ...times(within) };
  });
  const tools = [...new Set(rows.map(({ tool }) => tool))];
  return {
    over,
    tools: tools
      .map((tool) => ({ tool, ...row(rows.filter((one) => one.tool === tool)) }))
      .sort((a, b) => b.calls - a.calls),
    total: row(rows),
  };
}
