/** Random lower-case hex of so many bytes. */
function randomHex(bytes: number): string {
  const values = crypto.getRandomValues(new Uint8Array(bytes));
  let text = '';
  for (const value of values) text += value.toString(16).padStart(2, '0');
  return text;
}

/** A trace id of W3C Trace Context: 16 bytes in hex. */
export const newTraceId = () => randomHex(16);
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
