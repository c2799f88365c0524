const pool = new Uint8Array(4096);
let used = pool.length;
const HEX = Array.from({ length: 256 }, (_, value) => value.toString(16).padStart(2, '0'));

/** Random lower-case hex of so many bytes. Bytes are drawn in bulk: drawing a few costs as much as drawing many. */
function randomHex(bytes: number): string {
  if (used + bytes > pool.length) {
    crypto.getRandomValues(pool);
    used = 0;
  }
  let text = '';
  for (const end = used + bytes; used < end; used++) text += HEX[pool[used]!];
  return text;
}

/**
 * A trace id of W3C Trace Context: 16 bytes in hex, of which the first six are the moment in milliseconds, so that a run is
 * found by it among those of that moment, and the others are random.
 */
export const newTraceId = (now = Date.now()) => now.toString(16).padStart(12, '0') + randomHex(10);
/** The moment in a trace id that was made here, in milliseconds since the epoch. */
export const momentOfTrace = (traceId: string) => Number.parseInt(traceId.slice(0, 12), 16);
/** A span id of W3C Trace Context: 8 bytes in hex. */
export const newSpanId = () => randomHex(8);
/** A run's id; ids made later sort later, to the millisecond. */
export const newRunId = (now = Date.now()) => `r${now.toString(36)}${randomHex(5)}`;

/** The `traceparent` field of W3C Trace Context, version 00, sampled. */
export function traceparent(traceId: string, spanId: string): string {
  return `00-${traceId}-${spanId}-01`;
}

/** The trace and parent span that a `traceparent` names, or undefined when it is not a valid one. */
export function readTraceparent(text: unknown): { traceId: string; spanId: string } | undefined {
  if (typeof text !== 'string') return undefined;
  const match = /^[0-9a-f]{2}-([0-9a-f]{32})-([0-9a-f]{16})-[0-9a-f]{2}$/.exec(text);
  if (!match || /^0+$/.test(match[1]!) || /^0+$/.test(match[2]!)) return undefined;
  return { traceId: match[1]!, spanId: match[2]! };
}
