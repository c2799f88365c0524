import { z } from 'zod';

const UNITS: Record<string, number> = { KiB: 1024, MiB: 1024 * 1024 };
const SIZE = /^([1-9]\d{0,5})(KiB|MiB)$/;

/** A size such as `512KiB` or `4MiB`. */
export const size = z.string().regex(SIZE, 'must be a size such as 512KiB or 4MiB');

/** Sizes that were read before: one is asked for with each message to an endpoint. */
const read = new Map<string, number>();

/** A size in bytes. @throws RangeError */
export function bytesIn(text: string): number {
  const known = read.get(text);
  if (known !== undefined) return known;
  const match = SIZE.exec(text);
  if (!match) throw new RangeError(`"${text}" is not a size such as 4MiB`);
  const bytes = Number(match[1]) * UNITS[match[2]!]!;
  if (read.size < 1000) read.set(text, bytes);
  return bytes;
}

/** A number of bytes for people. */
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
