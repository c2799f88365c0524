import {
  type AgentReplay,
  comesAfter,
  type FlowDocument,
  graphOf,
  type Json,
  PindroError,
  type Replay,
  type RunRequest,
  replayAgent,
  stepKind,
} from '@pindro/core';

type Held = NonNullable<NonNullable<RunRequest['trial']>['held']>;

/** Recorded parts that replace work in a retry. */
export interface FromRecord {
  held: Held;
  /** Steps that are done for real, and that make a difference when they are done twice. */
  live: string[];
  /** Steps that are done again and ask somebody outside, or begin other work. */
  reaching: string[];
  /** Agents that work again with what is recorded of their calls, by the path of their step. */
  rehearsed: { [path: string]: AgentReplay };
}

/** How the agent of the step works again. */
export interface AgentRetry {
  /** Start at this round; the first if omitted. */
  round?: number | undefined;
  /** What tools give in place of what they gave, by their names. */
  answers?: { [tool: string]: Json } | undefined;
  /** Whether it may call for real what is not in the record. */
  live: boolean;
}

/**
 * Takes earlier and parallel steps from a recording; the step and its successors run again, except completed work that
 * cannot be repeated.
 * @throws not_found
 */
export function fromRecord(
  document: FlowDocument,
  replay: Replay,
  from: string,
  agent: AgentRetry = { live: false },
): FromRecord {
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
  const rehearsed = rehearsedFrom(replay, from, agent);
  for (const [name, step] of Object.entries(steps)) {
    const isAgain = name === from || comesAfter(graph, name, from);
    const kind = stepKind(step.kind);
    const isRepeatable = kind?.repeatable(step.with ?? {}) === true;
    const settled = replay.settled(name);
    if (settled?.state === 'done' && name !== from && (!isAgain || !isRepeatable)) {
      held[name] = { output: settled.output, branch: settled.branch };
      continue;
    }
    // What was not done because its way was not taken is not done now either, as long as nothing before it is another.
    if (!isAgain && settled?.state === 'skipped') continue;
    if (!isRepeatable && !(name in rehearsed)) live.push(name);
    if (kind?.effects?.(step.with ?? {}).outside || kind?.uses || kind?.body) reaching.push(name);
  }
  return { held, live, reaching, rehearsed };
}

/** The agents in a step, each from the round on that is asked for. @throws not_found where there is no such round */
function rehearsedFrom(
  replay: Replay,
  from: string,
  { round = 1, answers, live }: AgentRetry,
): FromRecord['rehearsed'] {
  const rehearsed: FromRecord['rehearsed'] = {};
  for (const path of replay.allConversed().filter((one) => one === from || one.startsWith(`${from}/`))) {
    const entries = replay.conversed(path);
    const found = replayAgent(entries, round, { live, ...(answers && { instead: answers }) });
    const rounds = entries.filter(({ is }) => is === 'answered').length;
    if (!found && round > 1)
      throw new PindroError('not_found', {
        what: 'round',
        name: String(round),
        suggestion: `The agent of step "${path}" had ${rounds}.`,
      });
    if (found) rehearsed[path] = found;
  }
  if (Object.keys(rehearsed).length === 0 && (round > 1 || answers))
    throw new PindroError('request_invalid', { why: `Step "${from}" has no agent in that run that called a model` });
  return rehearsed;
}
