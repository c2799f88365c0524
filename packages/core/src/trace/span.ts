import type { ErrorRecord } from '../errors.js';
import { isLong, type Json } from '../json.js';

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

/** The payload itself, or its beginning with its true size when it is over the limit. */
export function boundPayload(value: Json): Json {
  // Escapes can make JSON up to six times as long as its text; only what might be too long is written out to be sure.
  if (!isLong(value, PAYLOAD_LIMIT / 6)) return value;
  const text = JSON.stringify(value);
  if (text.length <= PAYLOAD_LIMIT) return value;
  return { cut: true, characters: text.length, beginning: text.slice(0, 4096) };
}
