import { type Json, SPAN_WORK, type Span } from '@pindro/core';
import { type Stored, takeOut } from './payloads.js';

/*
 * Serialized spans: a short run has ten, and most of each would be names. A page is a list that starts with the
 * version and the base time, then a list per span, without what is in the run's row (trace and run). Pages of earlier
 * versions are lists of objects.
 */
const VERSION = 2;
const STATUSES = ['ok', 'error', 'skipped', 'running'] as const;
/** Names of common attributes, written as `#` and their index. Append only: the indexes are in recorded runs. */
const NAMES = [
  ...['pindro.kind', 'pindro.path', 'pindro.index', 'pindro.attempt', 'pindro.branch', 'pindro.model', 'pindro.round'],
  ...['pindro.server', 'pindro.own_tool', 'pindro.stage', 'pindro.entry', 'pindro.revision', 'pindro.flow'],
  ...['pindro.child_run', 'pindro.sent', 'pindro.tools', 'pindro.offered', 'pindro.receipt', 'pindro.memory'],
  ...['enduser.id', 'mcp.method.name', 'gen_ai.operation.name', 'gen_ai.request.model', 'gen_ai.tool.name'],
  ...['gen_ai.usage.input_tokens', 'gen_ai.usage.output_tokens', 'gen_ai.usage.cache_read.input_tokens'],
  ...['gen_ai.response.finish_reasons', 'pindro.credential', 'pindro.built_in', 'pindro.held', 'pindro.cost'],
  ...['pindro.exchanges', 'pindro.exchanged', 'pindro.said'],
];
const PLACES = new Map(NAMES.map((name, place) => [name, `#${place}`]));

type Attributes = Span['attributes'];
/** Optional parts of a span. */
interface Rest {
  a?: Attributes;
  i?: Json;
  o?: Json;
  e?: Span['error'];
  /** Where its long parts stand. */
  s?: Stored<Span>['stored'];
}
/** Id, the span above (its place in the page, or its id), work, name, begin, duration, status, and the rest. */
type Written = [string, string | number | null, number, string, number, number | null, number, Rest?];

/** @param keep is given each long value, with its hash */
export function writeSpans(spans: readonly Span[], keep: (hash: string, body: string) => void): string {
  if (spans.length === 0) return '[]';
  const base = spans[0]!.start;
  const places = new Map<string, number>();
  const list: unknown[] = [VERSION, base];
  for (const one of spans) {
    const { spanId, parentId, work, name, start, end, status, attributes, input, output, error, stored } = takeOut(
      one,
      keep,
    ) as Stored<Span>;
    const rest: Rest = {};
    for (const key in attributes) {
      rest.a ??= {};
      rest.a[PLACES.get(key) ?? key] = attributes[key]!;
    }
    if (input !== undefined) rest.i = input;
    if (output !== undefined) rest.o = output;
    if (error !== undefined) rest.e = error;
    if (stored !== undefined) rest.s = stored;
    const above = parentId === null ? null : (places.get(parentId) ?? parentId);
    const written: Written = [
      ...([spanId, above, SPAN_WORK.indexOf(work), name, start - base] as const),
      ...([end === null ? null : end - start, STATUSES.indexOf(status)] as const),
    ];
    if (Object.keys(rest).length > 0) written.push(rest);
    places.set(spanId, places.size);
    list.push(written);
  }
  return JSON.stringify(list);
}

/** The spans of a page, also of one that an earlier version wrote. @param of the run and trace they belong to */
export function readSpans(text: string, of: { traceId: string; run: string }): Stored<Span>[] {
  const [version, base, ...written] = JSON.parse(text) as [unknown, unknown, ...Written[]];
  // Still earlier ones wrote into each span which run and trace it is of.
  if (version !== VERSION) return (JSON.parse(text) as Stored<Span>[]).map((span) => Object.assign({ ...of }, span));
  return written.map(([spanId, above, work, name, start, took, status, rest = {}]) => {
    const begun = (base as number) + start;
    return {
      ...{ traceId: of.traceId, spanId, parentId: typeof above === 'number' ? written[above]![0] : above, run: of.run },
      ...{ work: SPAN_WORK[work]!, name, start: begun, end: took === null ? null : begun + took },
      ...{ status: STATUSES[status]!, attributes: named(rest.a) },
      ...(rest.i !== undefined && { input: rest.i }),
      ...(rest.o !== undefined && { output: rest.o }),
      ...(rest.e !== undefined && { error: rest.e }),
      ...(rest.s !== undefined && { stored: rest.s }),
    };
  });
}

const named = (attributes: Attributes = {}): Attributes =>
  Object.fromEntries(
    Object.entries(attributes).map(([key, value]) => [
      key.startsWith('#') ? (NAMES[Number(key.slice(1))] ?? key) : key,
      value,
    ]),
  );
