const UNITS = { ms: 1, s: 1000, m: 60_000, h: 3_600_000, d: 86_400_000 } as const;

/**
 * A number with a unit, for example `500ms`, `10s`, `2m`, `1h` or `1d`, short enough that a date can be that far
 * away.
 */
export const DURATION = /^(?:\d{1,12}(?:\.\d{1,9})?m?s|\d{1,7}(?:\.\d{1,9})?[mhd])$/;
const PARTS = /^([\d.]+)([a-z]+)$/;

/**
 * Parses a duration that matches {@link DURATION}.
 * @param text such as `10s`, `5m` or `1h`
 * @returns milliseconds
 * @throws RangeError for any other text
 */
export function milliseconds(text: string): number {
  const match = DURATION.test(text) && PARTS.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a duration such as 10s`);
  return Number(match[1]) * UNITS[match[2] as keyof typeof UNITS];
}

const LARGE = [
  { name: 'd', seconds: 86_400 },
  { name: 'h', seconds: 3600 },
  { name: 'm', seconds: 60 },
  { name: 's', seconds: 1 },
] as const;

/**
 * Formats milliseconds in at most two units: `12 ms`, `1.4 s`, `2 m 5 s`, `8 h`, `1 d 6 h`.
 * @param ms milliseconds; not negative
 * @returns the duration in words
 */
export function humanDuration(ms: number): string {
  if (ms < 1) return '<1 ms';
  if (ms < 999.5) return `${Math.round(ms)} ms`;
  if (ms < 9950) return `${(ms / 1000).toFixed(1)} s`;
  const seconds = Math.round(ms / 1000);
  const at = LARGE.findIndex((unit) => seconds >= unit.seconds);
  const [first, second] = [LARGE[at]!, LARGE[at + 1]];
  // Rounded to the smaller unit first, so that 119 s and 59.9 m become the next larger unit.
  const step = second?.seconds ?? 1;
  const rounded = Math.round(seconds / step) * step;
  const whole = Math.floor(rounded / first.seconds);
  const rest = (rounded % first.seconds) / step;
  const larger = LARGE[at - 1];
  if (larger && rounded >= larger.seconds) return `1 ${larger.name}`;
  return second && rest > 0 ? `${whole} ${first.name} ${rest} ${second.name}` : `${whole} ${first.name}`;
}
