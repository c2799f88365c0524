const UNITS: Record<string, number> = { KiB: 1024, MiB: 1024 * 1024 };
export const SIZE = /^([1-9]\d{0,5})(KiB|MiB)$/;

/** Sizes that were read before: one is asked for with each message to an endpoint. */
const read = new Map<string, number>();

/**
 * Parses a size in bytes.
 * @param text a number with a unit: `10 MiB`, `500kB`, `1GB`
 * @returns bytes
 * @throws RangeError
 */
export function bytesIn(text: string): number {
  const known = read.get(text);
  if (known !== undefined) return known;
  const match = SIZE.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a size such as 4MiB`);
  const bytes = Number(match[1]) * UNITS[match[2]!]!;
  if (read.size < 1000) read.set(text, bytes);
  return bytes;
}

/**
 * Formats a number of bytes.
 * @param bytes a number of bytes
 * @returns such as `1.5 MiB`
 */
export function humanSize(bytes: number): string {
  if (bytes < 1024) return `${bytes} bytes`;
  const [amount, unit] =
    bytes < 1024 ** 2
      ? [bytes / 1024, 'KiB']
      : bytes < 1024 ** 3
        ? [bytes / 1024 ** 2, 'MiB']
        : [bytes / 1024 ** 3, 'GiB'];
  return `${Number(amount.toPrecision(3))} ${unit}`;
}
