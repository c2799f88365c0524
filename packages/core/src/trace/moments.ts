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

/** How a span stands at a moment. */
export function stateAt({ start, end }: Pick<Span, 'start' | 'end'>, at: number): 'to come' | 'under way' | 'over' {
  if (start > at) return 'to come';
  return end !== null && end <= at ? 'over' : 'under way';
}
