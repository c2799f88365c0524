/*
 * W3C Trace Context (https://www.w3.org/TR/trace-context/): how a trace is named in HTTP headers and in `_meta` of MCP
 * messages.
 */

/** A caller's trace: its ID, the caller's span, and vendor data (`tracestate`). */
export interface TraceContext {
  traceId: string;
  parentSpan: string;
  traceState?: string;
}

/** Fields of a request that continue a trace. */
export interface TraceFields {
  traceparent: string;
  tracestate?: string;
}

const PARENT = /^([0-9a-f]{2})-([0-9a-f]{32})-([0-9a-f]{16})-[0-9a-f]{2}/;
const LENGTH = 55;
const MEMBER =
  /^([a-z0-9][a-z0-9_\-*/]{0,240}(?:@[a-z][a-z0-9_\-*/]{0,13})?)=[\x20-\x2b\x2d-\x3c\x3e-\x7e]{0,255}[\x21-\x2b\x2d-\x3c\x3e-\x7e]$/;
const MOST_MEMBERS = 32;
/** Characters of `tracestate` that are forwarded at most; the specification asks for at least as many. */
const LONGEST_STATE = 512;

/**
 * Returns the fields with which a request continues a trace: version 00, sampled.
 * @param trace its ID and state
 * @param span ID of the span that sends the request
 * @returns `traceparent`, and `tracestate` if there is one
 */
export const traceFields = (
  trace: { traceId: string; traceState?: string | undefined },
  span: string,
): TraceFields => ({
  traceparent: `00-${trace.traceId}-${span}-01`,
  ...(trace.traceState && { tracestate: trace.traceState }),
});

/**
 * Reads `traceparent` and `tracestate`. A version above 00 is read as far as version 00 goes, and version ff is
 * invalid,
 * as the specification says. An invalid `tracestate` is ignored.
 * @param parent value of `traceparent`
 * @param state value of `tracestate`
 * @returns undefined when `traceparent` is invalid
 */
export function readTraceContext(parent: unknown, state?: unknown): TraceContext | undefined {
  if (typeof parent !== 'string') return undefined;
  const match = PARENT.exec(parent);
  if (!match) return undefined;
  const [, version, traceId, parentSpan] = match as unknown as [string, string, string, string];
  const fits = version === '00' ? parent.length === LENGTH : parent.length === LENGTH || parent[LENGTH] === '-';
  if (version === 'ff' || !fits || /^0+$/.test(traceId) || /^0+$/.test(parentSpan)) return undefined;
  const traceState = readTraceState(state);
  return { traceId, parentSpan, ...(traceState && { traceState }) };
}

/** Returns the members of a `tracestate` that are forwarded: those in front, as many as fit; or empty if it is invalid. */
function readTraceState(text: unknown): string {
  if (typeof text !== 'string') return '';
  const members = text
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== '');
  const keys = members.map((one) => MEMBER.exec(one)?.[1]);
  if (members.length > MOST_MEMBERS || keys.includes(undefined) || new Set(keys).size < keys.length) return '';
  while (members.join().length > LONGEST_STATE) members.pop();
  return members.join();
}
