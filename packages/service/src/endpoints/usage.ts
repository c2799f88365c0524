import type { Usage, UsageRow } from '@pindro/contract';
import { letOthers, pointerParts } from '@pindro/core';
import type { EndpointCall } from '../runs/search.js';

const DAY = 24 * 60 * 60_000;
/** The time is told in so many parts. */
const PARTS = 28;
const MOST_CALLERS = 10;

function percentile(sorted: Float64Array, share: number): number | null {
  return sorted.length === 0 ? null : sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!;
}

/** How often each value comes, the most frequent first. */
class Tally {
  readonly #counts = new Map<string, number>();

  add(value: string): void {
    this.#counts.set(value, (this.#counts.get(value) ?? 0) + 1);
  }
  list(): [string, number][] {
    return [...this.#counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]));
  }
}

const REFUSALS = ['arguments_refused', 'argument_governed', 'input_refused'];

/** The argument because of which a call was refused: the first part of where its mistake stands. */
const refusedArgument = ({ error }: EndpointCall): string | undefined =>
  error && REFUSALS.includes(error.code) ? pointerParts(error.at ?? '')[0] : undefined;

function row(calls: readonly EndpointCall[]): Omit<UsageRow, 'tool'> {
  const [callers, refused, took] = [new Tally(), new Tally(), [] as number[]];
  let failed = 0;
  for (const call of calls) {
    callers.add(call.caller);
    if (call.state === 'failed') failed++;
    if (call.endedAt !== null) took.push(call.endedAt - call.startedAt);
    const argument = refusedArgument(call);
    if (argument) refused.add(argument);
  }
  const sorted = Float64Array.from(took).sort();
  return {
    calls: calls.length,
    failed,
    callers: callers
      .list()
      .slice(0, MOST_CALLERS)
      .map(([caller, times]) => ({ caller, calls: times })),
    p50: percentile(sorted, 0.5),
    p95: percentile(sorted, 0.95),
    refused: refused.list().map(([argument, times]) => ({ argument, times })),
  };
}

/** Who used what in the last days, and how it went. */
export async function usageOf(calls: readonly EndpointCall[], days: number, now: number): Promise<Usage> {
  const from = now - days * DAY;
  const part = (days * DAY) / PARTS;
  const byTool = grouped(calls);
  const parts = Array.from({ length: PARTS }, (): EndpointCall[] => []);
  for (const call of calls) parts[Math.floor((call.startedAt - from) / part)]?.push(call);
  await letOthers();
  const over = parts.map((within, index) => {
    const { failed, p50, p95 } = row(within);
    return { from: new Date(from + index * part).toISOString(), calls: within.length, failed, p50, p95 };
  });
  await letOthers();
  const tools = [...byTool].map(([tool, own]) => ({ tool, ...row(own) })).sort((a, b) => b.calls - a.calls);
  await letOthers();
  return { tools, over, total: row(calls) };
}

/** Calls by their tool. */
function grouped(calls: readonly EndpointCall[]): Map<string, EndpointCall[]> {
  const groups = new Map<string, EndpointCall[]>();
  for (const call of calls) {
    const own = groups.get(call.tool);
    if (own) own.push(call);
    else groups.set(call.tool, [call]);
  }
  return groups;
}
