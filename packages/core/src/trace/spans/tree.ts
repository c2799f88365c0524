import type { Span } from './span.js';

export interface TraceRow {
  span: Span;
  depth: number;
  /** How many spans stand below it, at any depth. */
  below: number;
}

/** Spans as a tree, quick also with thousands. One whose parent never came is a root; a circle is cut where it is met. */
export class TraceTree {
  readonly roots: readonly Span[];
  readonly #children = new Map<string, Span[]>();

  constructor(readonly spans: readonly Span[]) {
    const ids = new Set(spans.map(({ spanId }) => spanId));
    const roots: Span[] = [];
    for (const span of spans.toSorted((a, b) => a.start - b.start)) {
      if (span.parentId === null || span.parentId === span.spanId || !ids.has(span.parentId)) roots.push(span);
      else {
        const beside = this.#children.get(span.parentId);
        if (beside) beside.push(span);
        else this.#children.set(span.parentId, [span]);
      }
    }
    // Spans that are one another's parents are under no root.
    const reached = new Set(this.#walk(roots).map(({ span }) => span.spanId));
    for (const span of spans) {
      if (reached.has(span.spanId)) continue;
      roots.push(span);
      for (const row of this.#walk([span], reached)) reached.add(row.span.spanId);
    }
    this.roots = roots;
  }

  children({ spanId }: Pick<Span, 'spanId'>): readonly Span[] {
    return this.#children.get(spanId) ?? [];
  }

  /** Every span in the order of a tree that is read from above. */
  rows(): TraceRow[] {
    return this.#walk(this.roots);
  }

  #walk(from: readonly Span[], known: ReadonlySet<string> = new Set()): TraceRow[] {
    const seen = new Set(known);
    const rows: TraceRow[] = [];
    const left = from.toReversed().map((span) => ({ span, depth: 0 }));
    for (let next = left.pop(); next; next = left.pop()) {
      if (seen.has(next.span.spanId)) continue;
      seen.add(next.span.spanId);
      rows.push({ ...next, below: 0 });
      for (const child of this.children(next.span).toReversed()) left.push({ span: child, depth: next.depth + 1 });
    }
    // From below: what stands deeper after a row belongs to it.
    const open: TraceRow[] = [];
    for (const row of rows) {
      while (open.length > 0 && open.at(-1)!.depth >= row.depth) open.pop();
      for (const above of open) above.below++;
      open.push(row);
    }
    return rows;
  }
}

/** From a span up to its root, by their ids; a circle is cut. */
export function waysUp(spans: readonly Span[]): (id: string) => string[] {
  const parents = new Map(spans.map(({ spanId, parentId }) => [spanId, parentId]));
  return (id) => {
    const way: string[] = [];
    for (
      let here = parents.get(id) ?? null;
      here && parents.has(here) && !way.includes(here);
      here = parents.get(here)!
    )
      way.push(here);
    return way;
  };
}
