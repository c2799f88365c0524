const UNITS = { ms: 1, s: 1000, m: 60_000, h: 3_600_000, d: 86_400_000 } as const;

/** A number and its unit, for example `500ms`, `10s`, `2m`, `1h` or `1d`. */
export const DURATION = /^(\d+(?:\.\d+)?)(ms|s|m|h|d)$/;

/** Milliseconds of a duration with its unit. The text must match {@link DURATION}. */
export function milliseconds(text: string): number {
  const match = DURATION.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a duration such as 10s`);
  return Number(match[1]) * UNITS[match[2] as keyof typeof UNITS];
}

/** Milliseconds as people read them: `12 ms`, `1.4 s`, `2 m 5 s`. */
export function humanDuration(ms: number): string {
  if (ms < 1) return '<1 ms';
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(ms < 10_000 ? 1 : 0)} s`;
  return `${Math.floor(ms / 60_000)} m ${Math.round((ms % 60_000) / 1000)} s`;
}
