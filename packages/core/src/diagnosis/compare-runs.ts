import { canonical, type Json } from '../json/json.js';
import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';

/** One unit of work of a run, to compare with that of another. */
export interface Side {
  status: Span['status'];
  /** In milliseconds. */
  took: number | null;
  input: Json;
  output: Json;
  error: string | null;
}

export interface RunComparison {
  /** The step, or the call of a tool in it, with which of them it is. */
  what: string;
  work: Span['work'];
  one: Side | null;
  other: Side | null;
  /** In what they differ; nothing where they are alike. */
  differs: ('came' | 'status' | 'input' | 'output' | 'error')[];
}

const COMPARED: readonly Span['work'][] = ['step', 'tool', 'model'];

/**
 * Compares two runs of a flow step by step and call by call, in the order of execution.
 * @param one spans of the first run
 * @param other spans of the second run
 * @returns a row per unit of work, with both sides where both did it
 */
export function compareRunTraces(one: readonly Span[], other: readonly Span[]): RunComparison[] {
  const [left, right] = [named(one), named(other)];
  const order = [...left.keys()];
  // What only the other has stands after what it came after there.
  let after = -1;
  for (const name of right.keys()) {
    const at = order.indexOf(name);
    if (at >= 0) after = at;
    else order.splice(++after, 0, name);
  }
  return order.map((what) => {
    const [a, b] = [left.get(what) ?? null, right.get(what) ?? null];
    const [sideA, sideB] = [a && sideOf(a), b && sideOf(b)];
    return { what, work: (a ?? b)!.work, one: sideA, other: sideB, differs: differencesOf(sideA, sideB) };
  });
}

/** Spans by what they are and which of them: attempts and calls are counted. */
function named(spans: readonly Span[]): Map<string, Span> {
  const by = new Map<string, Span>();
  const byId = new Map(spans.map((span) => [span.spanId, span]));
  const counts = new Map<string, number>();
  for (const span of spans) {
    if (!COMPARED.includes(span.work)) continue;
    const base = nameOf(span, byId);
    const count = (counts.get(base) ?? 0) + 1;
    counts.set(base, count);
    by.set(count === 1 ? base : `${base} (${count})`, span);
  }
  return by;
}

function nameOf(span: Span, byId: Map<string, Span>): string {
  const own = String(
    span.attributes[attribute.path] ?? span.attributes[attribute.tool] ?? span.attributes[attribute.model] ?? span.name,
  );
  if (span.work === 'step') return own;
  let above: Span | undefined = span;
  for (let depth = 0; above && above.work !== 'step' && depth < 50; depth++)
    above = above.parentId === null ? undefined : byId.get(above.parentId);
  return `${above?.name ?? ''} › ${own}`;
}

const sideOf = ({ status, start, end, input = null, output = null, error }: Span): Side => ({
  ...{ status, input, output, error: error?.message ?? null },
  took: end === null ? null : end - start,
});

const alike = (a: Json, b: Json) => canonical(a) === canonical(b);

function differencesOf(a: Side | null, b: Side | null): RunComparison['differs'] {
  if (!a || !b) return ['came'];
  return [
    ...(a.status === b.status ? [] : ['status' as const]),
    ...(alike(a.input, b.input) ? [] : ['input' as const]),
    ...(alike(a.output, b.output) ? [] : ['output' as const]),
    ...(a.error === b.error ? [] : ['error' as const]),
  ];
}
