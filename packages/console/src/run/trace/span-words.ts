import type { RunDetail } from '@pindro/contract/light';
import { attribute, type Moment } from '@pindro/core/browser';

export type Span = RunDetail['spans'][number];

/** What a bar is drawn in. */
export const BARS: Record<Span['work'], string> = {
  run: 'bg-soft',
  step: 'bg-spruce',
  item: 'bg-spruce',
  agent: 'bg-glacier',
  model: 'bg-ochre',
  tool: 'bg-ink',
  memory: 'bg-soft',
};

/** Which of its kind a span is. */
export function labelOf({ work, name, attributes }: Span): string {
  const [tool, server, round, model] = [attribute.tool, attribute.server, attribute.round, attribute.model].map(
    (one) => attributes[one],
  );
  if (work === 'tool') return `${tool}${server ? ` of ${server}` : ''}`;
  if (work === 'model') return `${round === undefined ? '' : `round ${round} `}on ${model}`;
  if (work === 'agent') return `on ${model}`;
  return work === 'item' ? String(Number(attributes[attribute.index] ?? 0) + 1) : name;
}

export const lengthOf = ({ start, end }: Span): number => Math.max(0, (end ?? start) - start);

export const momentWords = ({ span, what }: Moment): string => `${span.work} ${labelOf(span as Span)} ${what}`;

/** A span as text that is searched. */
export const textOf = (span: Span): string =>
  `${span.work} ${labelOf(span)} ${JSON.stringify([span.input, span.output, span.error?.message, span.attributes])}`.toLowerCase();
