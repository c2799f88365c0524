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
  for (const [name, step] of Object.entries(steps)) {
    const isAgain = name === from || comesAfter(graph, name, from);
    const kind = stepKind(step.kind);
    const isRepeatable = kind?.repeatable(step.with ?? {}) === true;
    const settled = replay.settled(name);
    if (settled?.state === 'done' && name !== from && (!isAgain || !isRepeatable))
      held[name] = { output: settled.output as never, branch: settled.branch };
    else if (isAgain && !isRepeatable) live.push(name);
  }
  return { held, live };
}
