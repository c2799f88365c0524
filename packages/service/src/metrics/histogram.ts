/** Upper bounds of duration buckets, in milliseconds; longer ones are in the last bucket. */
export const BOUNDS = [
  ...[1, 2, 3, 5, 7, 10, 15, 20, 30, 50, 70, 100, 150, 200, 300, 500, 700],
  ...[1000, 1500, 2000, 3000, 5000, 7000, 10_000, 15_000, 20_000, 30_000, 60_000, 120_000, 300_000, 600_000],
];

export const emptyHistogram = (): number[] => new Array<number>(BOUNDS.length + 1).fill(0);

export function addTo(histogram: number[], took: number): void {
  const at = BOUNDS.findIndex((bound) => took <= bound);
  histogram[at < 0 ? BOUNDS.length : at]! += 1;
}

/** A time that so large a part stays within, in milliseconds, to the next bound; null where nothing was counted. */
export function quantile(histogram: readonly number[], part: number): number | null {
  const all = histogram.reduce((sum, count) => sum + count, 0);
  if (all === 0) return null;
  let seen = 0;
  for (const [index, count] of histogram.entries()) {
    seen += count;
    if (seen >= all * part) return BOUNDS[index] ?? BOUNDS.at(-1)! * 2;
  }
  return null;
}
