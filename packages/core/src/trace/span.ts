import type { ErrorRecord } from '../errors.js';
import type { Json } from '../json.js';

/** What a span's time was spent on. */
export type SpanWork = 'run' | 'step' | 'item' | 'agent' | 'model' | 'tool';

/**
 * One timed piece of a run, after the span of OpenTelemetry. Times are milliseconds since the epoch.
 * Attribute names follow OpenTelemetry's conventions for generative AI (`gen_ai.*`) and MCP (`mcp.*`).
 */
export interface Span {
  traceId: string;
  spanId: string;
  parentId: string | null;
  run: string;
  work: SpanWork;
  name: string;
  start: number;
  end: number | null;
  status: 'running' | 'ok' | 'error' | 'skipped';
  attributes: { [key: string]: Json };
  input?: Json;
  output?: Json;
  error?: ErrorRecord;
}

/** A payload larger than this many characters of JSON is cut in a span; the journal keeps it whole. */
export const PAYLOAD_LIMIT = 64 * 1024;

/** About how long a value is as JSON; stops counting once it is over the limit. */
function roughLength(value: Json, limit: number): number {
  if (typeof value === 'string') return value.length + 2;
  if (typeof value !== 'object' || value === null) return 6;
  let sum = 2;
  for (const [key, inner] of Object.entries(value)) {
    sum += key.length + 4 + roughLength(inner, limit - sum);
    if (sum > limit) break;
  }
  return sum;
}

/** The payload itself, or its beginning with its true size when it is over the limit. */
export function boundPayload(value: Json): Json {
  // Escapes can make JSON up to six times as long as its text; only what might be too long is written out to be sure.
  if (roughLength(value, PAYLOAD_LIMIT) < PAYLOAD_LIMIT / 6) return value;
  const text = JSON.stringify(value);
  if (text.length <= PAYLOAD_LIMIT) return value;
  return { cut: true, characters: text.length, beginning: text.slice(0, 4096) };
}
