import type { Span } from './span.js';

/** Something that begins or ends in a run. */
export interface Moment {
  /** In milliseconds since the epoch. */
  at: number;
  span: Span;
  what: 'begins' | 'ends' | 'fails';
}

/** All that begins and ends, in its order; of what happens at once what stands above begins first and ends last. */
export function momentsOf(spans: readonly Span[]): Moment[] {
  const order = new Map(spans.map(({ spanId }, index) => [spanId, index]));
  const all = spans.flatMap((span): Moment[] => [
    { at: span.start, span, what: 'begins' },
    ...(span.end === null
      ? []
      : [
          {
            at: Math.max(span.end, span.start),
            span,
            what: span.status === 'error' ? ('fails' as const) : ('ends' as const),
          },
        ]),
  ]);
  const depth = (moment: Moment) => order.get(moment.span.spanId)! * (moment.what === 'begins' ? 1 : -1);
  const isEnd = (moment: Moment) => (moment.what === 'begins' ? 0 : 1);
  return all.sort((a, b) => a.at - b.at || isEnd(a) - isEnd(b) || depth(a) - depth(b));
}

/** How a run stood after something had begun or ended in it. Much may happen within one millisecond: the order counts. */
export interface SpanStates {
  at: number;
  begun: ReadonlySet<string>;
  over: ReadonlySet<string>;
}

/** @param index the last moment that had been */
export function spanStatesAt(moments: readonly Moment[], index: number): SpanStates {
  const been = moments.slice(0, index + 1);
  const ids = (ended: boolean) =>
    new Set(been.filter(({ what }) => (what !== 'begins') === ended).map(({ span }) => span.spanId));
  return { at: been.at(-1)?.at ?? 0, begun: ids(false), over: ids(true) };
}

export function spanStateIn({ begun, over }: SpanStates, spanId: string): 'pending' | 'running' | 'over' {
  return over.has(spanId) ? 'over' : begun.has(spanId) ? 'running' : 'pending';
}
