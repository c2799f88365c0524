import type { RunDetail } from '@pindro/contract/light';
import { humanDuration, type SpanStates, spanStateIn } from '@pindro/core/browser';

interface StepState {
  state: string;
  branch: string | null;
  took?: string;
  /** Why it was not done. */
  why?: string;
}

/** How each step stood at a moment, or came out in the end where none is given, with its time, for the cards. */
export function statesOf(now: RunDetail, moment: SpanStates | null): Map<string, StepState> {
  const spans = new Map(
    now.spans.filter(({ work, run }) => work === 'step' && run === now.id).map((span) => [span.name, span]),
  );
  return new Map(
    now.cards.map(({ name }) => {
      const settled = now.settled.find(({ path }) => path === name);
      const span = spans.get(name);
      if (moment !== null) {
        const stand = span ? spanStateIn(moment, span.spanId) : 'pending';
        if (stand === 'running') return [name, { state: 'running', branch: null }];
        if (stand === 'pending') return [name, { state: '', branch: null }];
      }
      const waits = now.waits.some(({ path }) => path === name || path.startsWith(`${name}/`));
      const isOver = now.state !== 'running' && now.state !== 'waiting';
      const state = settled?.state ?? (waits ? 'waiting' : isOver ? 'skipped' : '');
      const took = span?.end && settled ? { took: humanDuration(span.end - span.start) } : {};
      const why = state === 'skipped' && moment === null ? { why: whySkipped(now, name) } : {};
      return [name, { state, branch: settled?.branch ?? null, ...took, ...why }];
    }),
  );
}

/** What was not as it would have to be for a step to be done. */
function whySkipped({ links, settled, error }: RunDetail, name: string): string {
  const before = links.filter(({ to }) => to === name);
  const other = before.flatMap(({ from, branch }) => {
    const came = settled.find(({ path }) => path === from);
    if (branch === null || came?.state !== 'done') return [];
    return [
      came.branch === null
        ? `${from} did not take the branch ${branch}`
        : `${from} took the branch ${came.branch}, not ${branch}`,
    ];
  });
  if (other.length > 0) return other.join(', and ');
  const failed = before.find(({ from }) => settled.some(({ path, state }) => path === from && state === 'failed'));
  if (failed) return `${failed.from} failed`;
  const skipped = before.find(({ from }) => settled.some(({ path, state }) => path === from && state === 'skipped'));
  if (skipped) return `${skipped.from} did not run either`;
  return error ? 'the run had failed by then' : 'the run was over by then';
}
