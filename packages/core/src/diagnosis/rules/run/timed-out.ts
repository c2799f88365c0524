import { humanDuration } from '../../../text/duration.js';
import type { Span } from '../../../trace/spans/span.js';
import type { Failure, IndexedTrace } from '../../indexed.js';
import { failureRule, placeInFlow } from '../../rule.js';

const took = ({ start, end }: Span, until: number) => Math.max(0, (end ?? until) - start);

/** Below a span, the part that took longest, as far down as one of them took most of it. */
function slowest(span: Span, trace: IndexedTrace): Span[] {
  const way: Span[] = [];
  const until = span.end ?? span.start;
  for (let here = span; way.length < 20; ) {
    const inside = [...trace.children(here)].sort((a, b) => took(b, until) - took(a, until))[0];
    if (!inside || took(inside, until) < took(here, until) / 2) break;
    way.push(inside);
    here = inside;
  }
  return way;
}

const LABELS: Partial<Record<Span['work'], string>> = {
  tool: 'the tool',
  model: 'the model',
  step: 'step',
  run: 'flow',
  agent: 'the agent',
};
const nameOf = ({ work, name }: Span) => `${LABELS[work] ?? work} "${name.replace(/^[a-z]+_[a-z_]+ /, '')}"`;

/** Whose time it was: the outermost that was given up for it, above the part that had not answered then. */
const limited = ({ chain, error, span }: Failure): Span =>
  chain.findLast(({ work, error: own }) => work !== 'run' && own?.message === error.message) ?? span;

export const timedOut = failureRule({
  code: 'timed_out',
  about: 'A step, a call or an agent timed out. The part that took the time is named.',
  todo: 'Raise the timeout, or check the part that took the time.',
  codes: ['timed_out'],
  explain: (failure, trace) => {
    const { error } = failure;
    const span = limited(failure);
    const way = slowest(span, trace);
    const last = way.at(-1);
    const all = humanDuration((span.end ?? span.start) - span.start);
    const limit = error.details?.limit;
    const attempts = span.work === 'step' ? trace.attemptsOf(span) : [];
    const which = attempts.length > 1 ? `, in attempt ${attempts.indexOf(span) + 1} of ${attempts.length}` : '';
    return {
      title: last
        ? `${error.message}${which}: ${nameOf(last)} took ${humanDuration(took(last, span.end ?? span.start))} of it`
        : `${error.message}${which}`,
      why: `It timed out after ${all}.${way.length > 0 ? ` The time was spent in ${way.map(nameOf).join(', and within it ')}.` : ''}`,
      fix: error.hint,
      place:
        limit === 'limits.time'
          ? placeInFlow(failure, trace, '/with/limits/time')
          : placeInFlow(failure, trace, '/timeout'),
      explains: way.filter((one) => one.error).map(({ spanId }) => spanId),
    };
  },
});
