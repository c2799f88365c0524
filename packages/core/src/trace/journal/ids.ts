const pool = new Uint8Array(4096);
let used = pool.length;
const HEX = Array.from({ length: 256 }, (_, value) => value.toString(16).padStart(2, '0'));

/** Random lower-case hex. Bytes are drawn in bulk, because drawing a few costs as much as many. */
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
 * Creates a trace ID of W3C Trace Context: 16 bytes in hexadecimal. The first six are the time in milliseconds,
 * which makes a run easy to find by its trace ID; the others are random.
 * @param now milliseconds since the epoch
 * @returns 32 hexadecimal digits
 */
export const newTraceId = (now = Date.now()) => now.toString(16).padStart(12, '0') + randomHex(10);
/**
 * Returns the creation time of a trace ID that was created here, in milliseconds since the epoch.
 * @param traceId 32 hexadecimal digits
 * @returns milliseconds; meaningless for a trace ID from elsewhere
 */
export const momentOfTrace = (traceId: string) => Number.parseInt(traceId.slice(0, 12), 16);
/**
 * Creates a span ID of W3C Trace Context: 8 bytes in hexadecimal.
 * @returns 16 hexadecimal digits
 */
export const newSpanId = () => randomHex(8);
/**
 * Creates a run ID. IDs created later sort later, to the millisecond.
 * @param now milliseconds since the epoch
 * @returns `r`, the time in base 36, and ten random hexadecimal digits
 */
export const newRunId = (now = Date.now()) => `r${now.toString(36)}${randomHex(5)}`;
