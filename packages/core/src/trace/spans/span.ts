import { z } from 'zod';
import { errorRecord } from '../../errors/error-record.js';
import { anyJson } from '../../json/any-json.js';
import { isLong, type Json } from '../../json/json.js';

/** Types of spans. Stored records refer to them by index, so new ones go to the end. */
export const SPAN_WORK = ['run', 'step', 'item', 'agent', 'model', 'tool', 'memory'] as const;
export type SpanWork = (typeof SPAN_WORK)[number];

/**
 * One timed unit of work of a run, modelled on OpenTelemetry spans. Times are milliseconds since the epoch.
 * Attribute names follow OpenTelemetry's conventions for generative AI (`gen_ai.*`) and MCP (`mcp.*`).
 */
export const spanSchema = z.object({
  traceId: z.string(),
  spanId: z.string(),
  parentId: z.string().nullable(),
  run: z.string(),
  work: z.enum(SPAN_WORK),
  name: z.string(),
  start: z.number(),
  end: z.number().nullable(),
  status: z.enum(['running', 'ok', 'error', 'skipped']),
  attributes: z.record(z.string(), anyJson),
  input: anyJson.optional(),
  output: anyJson.optional(),
  error: errorRecord.optional(),
});
export type Span = z.infer<typeof spanSchema>;

/** A payload larger than this many characters of JSON is cut in a span; the journal keeps it whole. */
export const PAYLOAD_LIMIT = 64 * 1024;

/**
 * Truncates a payload that exceeds the limit to its beginning and its size.
 * @param value input or output of a span
 * @returns the value, or `{ cut: true, characters, beginning }` over {@link PAYLOAD_LIMIT} characters of JSON
 */
export function boundPayload(value: Json): Json {
  // Escapes can make JSON up to six times as long as its text; only what might be too long is written out to be sure.
  if (!isLong(value, PAYLOAD_LIMIT / 6)) return value;
  const text = JSON.stringify(value);
  if (text.length <= PAYLOAD_LIMIT) return value;
  return { cut: true, characters: text.length, beginning: text.slice(0, 4096) };
}
