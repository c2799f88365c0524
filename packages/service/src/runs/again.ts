import {
  comesAfter,
  type FlowDocument,
  graphOf,
  PindroError,
  type Replay,
  type RunRequest,
  stepKind,
} from '@pindro/core';

type Held = NonNullable<NonNullable<RunRequest['trial']>['held']>;

/** What of a recorded run stands in for doing it again. */
export interface FromRecord {
  held: Held;
  /** Steps that are done for real, and that make a difference when they are done twice. */
  live: string[];
  /** Steps that are done again and ask somebody outside, or begin other work. */
  reaching: string[];
}

/**
 * Takes what stands before a step, or beside it, from a record; the step and all that comes after it are done again, but
 * for what cannot be repeated and was done already.
 * @throws not_found
 */
export function fromRecord(document: FlowDocument, replay: Replay, from: string): FromRecord {
  const { steps } = document;
  if (!Object.hasOwn(steps, from))
    throw new PindroError('not_found', {
      what: 'step',
      name: from,
      suggestion: `There are ${Object.keys(steps).join(', ')}.`,
    });
  const graph = graphOf(steps);
  const held: Held = {};
  const live: string[] = [];
  const reaching: string[] = [];
  for (const [name, step] of Object.entries(steps)) {
    const isAgain = name === from || comesAfter(graph, name, from);
    const kind = stepKind(step.kind);
    const isRepeatable = kind?.repeatable(step.with ?? {}) === true;
    const settled = replay.settled(name);
    if (settled?.state === 'done' && name !== from && (!isAgain || !isRepeatable)) {
      held[name] = { output: settled.output as never, branch: settled.branch };
      continue;
    }
    // What was not done because its way was not taken is not done now either, as long as nothing before it is another.
    if (!isAgain && settled?.state === 'skipped') continue;
    if (!isRepeatable) live.push(name);
    if (kind?.effects?.(step.with ?? {}).outside || kind?.uses || kind?.body) reaching.push(name);
  }
  return { held, live, reaching };
}
