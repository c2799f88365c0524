import { attribute, criticalPath, type TraceRow, TraceTree, waysUp } from '@pindro/core/browser';
import { SvelteSet } from 'svelte/reactivity';
import { type Span, textOf } from './span-words.js';

/** With more spans than this, successful ones off the critical path are collapsed initially. */
const MANY = 300;

interface Row extends TraceRow {
  span: Span;
}

/** The spans of a run as somebody reads them: folded, searched, chosen. Must be made while a component is set up. */
export class TraceView {
  search = $state('');
  chosen = $state<string | null>(null);
  readonly #folded = new SvelteSet<string>();
  /** Of spans that are searched; made when somebody searches. */
  readonly #texts = new Map<string, string>();

  readonly #all = $derived.by(() => new TraceTree(this.spans()).rows() as Row[]);
  readonly path = $derived.by(() => criticalPath(this.spans()));
  readonly begin = $derived.by(() => this.spans().reduce((least, { start }) => Math.min(least, start), Infinity));
  readonly took = $derived.by(() => {
    const end = this.spans().reduce((most, { start, end: one }) => Math.max(most, one ?? start), 0);
    return Math.max(1, end - this.begin);
  });
  /** Spans in which the words that are searched for stand; null while nothing is searched for. */
  readonly found = $derived.by(() => this.#find());
  readonly rows = $derived.by(() => this.#visible());

  constructor(
    private readonly spans: () => readonly Span[],
    open: string | null,
  ) {
    if (spans().length > MANY) this.#foldWhatIsWell();
    this.show(open);
  }

  /** Selects a span and unfolds what it lies in; null: none. */
  show(span: string | null): void {
    this.chosen = span;
    if (span) for (const above of waysUp(this.spans())(span)) this.#folded.delete(above);
  }

  isFolded = (id: string): boolean => this.#folded.has(id);

  fold(id: string): void {
    if (!this.#folded.delete(id)) this.#folded.add(id);
  }

  get chosenSpan(): Span | undefined {
    return this.spans().find(({ spanId }) => spanId === this.chosen);
  }

  /** All attempts at the step that a span is, the oldest first; none where there was but one. */
  attemptsOf(span: Span): readonly Span[] {
    if (span.work !== 'step') return [];
    const same = this.spans().filter(
      (one) =>
        one.work === 'step' &&
        one.run === span.run &&
        one.attributes[attribute.path] === span.attributes[attribute.path],
    );
    return same.length > 1 ? same.toSorted((a, b) => a.start - b.start) : [];
  }

  /** Selects a row relative to the present one. @returns its index */
  step(by: number): number {
    const at = this.rows.findIndex(({ span }) => span.spanId === this.chosen);
    const next = Math.max(0, Math.min(this.rows.length - 1, at + by));
    this.chosen = this.rows[next]?.span.spanId ?? null;
    return next;
  }

  #foldWhatIsWell(): void {
    const up = waysUp(this.spans());
    const open = new Set(this.path.keys());
    for (const { spanId, status } of this.spans()) if (status === 'error') for (const id of up(spanId)) open.add(id);
    for (const { span, below, depth } of this.#all)
      if (below > 0 && depth > 0 && (!open.has(span.spanId) || (below > MANY && depth > 1)))
        this.#folded.add(span.spanId);
  }

  #find(): Set<string> | null {
    const words = this.search.trim().toLowerCase();
    if (words === '') return null;
    const found = new Set<string>();
    for (const span of this.spans()) {
      let text = this.#texts.get(span.spanId);
      if (text === undefined) this.#texts.set(span.spanId, (text = textOf(span)));
      if (text.includes(words)) found.add(span.spanId);
    }
    return found;
  }

  #visible(): Row[] {
    const { found } = this;
    if (found) {
      const up = waysUp(this.spans());
      const shown = new Set([...found].flatMap((id) => [id, ...up(id)]));
      return this.#all.filter(({ span }) => shown.has(span.spanId));
    }
    const rows: Row[] = [];
    let under = Number.POSITIVE_INFINITY;
    for (const row of this.#all) {
      if (row.depth > under) continue;
      under = this.#folded.has(row.span.spanId) ? row.depth : Number.POSITIVE_INFINITY;
      rows.push(row);
    }
    return rows;
  }
}
