import { asJson } from '../json/json.js';
import type { Ports } from '../ports/ports.js';
import { withDefaults } from '../tools/schema.js';
import type { FlowOutcome } from '../tools/start-flow.js';
import { Recorder } from '../trace/journal/recorder.js';
import type { Receipt } from '../trace/receipts/receipt.js';
import { Masker, sensitiveValues } from '../trace/secrets/masking.js';
import { attribute } from '../trace/spans/attributes.js';
import { FlowRun, type Hooks, type RunTree } from './flow-run.js';
import { prepareFlow } from './prepared.js';
import { Replay } from './replay.js';
import { headOf, type RunRequest, withSafeInput } from './request.js';
import { TreeSize } from './tree-size.js';

/** Promises of a started run. */
export interface StartedRun {
  /** The summary returned to the caller: the answer, what the run waits for, or how it ended. */
  answered: Promise<FlowOutcome>;
  /** How it ended, once every run it began on its own has ended too. */
  ended: Promise<FlowOutcome>;
}

/**
 * Starts a run. Errors inside it are not thrown; they are in the outcomes and in the record.
 * @param request the document, its input, and on whose behalf it runs
 * @param ports to everything outside
 * @param signal cancels the run
 * @returns promises of its answer and of its end
 */
export function startFlow(request: RunRequest, ports: Ports, signal: AbortSignal): StartedRun {
  const { name } = request.document;
  const tree: RunTree = {
    chain: [name],
    size: new TreeSize(),
    masker: new Masker(ports.secrets?.masker ?? null),
    signal,
    detached: new Set(),
  };
  let own!: Promise<FlowOutcome>;
  const answered = new Promise<FlowOutcome>((tell, refuse) => {
    own = runInTree(request, ports, signal, tree, { answer: tell, park: tell });
    own.then(tell, refuse);
  });
  const ended = own.then(async (outcome) => {
    while (tree.detached.size > 0) await Promise.allSettled([...tree.detached]);
    return outcome;
  });
  return { answered, ended };
}

/**
 * Runs a flow to its end. Resolves once the record is on disk.
 * @param request the document, its input, and on whose behalf it runs
 * @param ports to everything outside
 * @param signal cancels the run
 * @returns how it ended
 */
export function runFlow(request: RunRequest, ports: Ports, signal: AbortSignal): Promise<FlowOutcome> {
  return startFlow(request, ports, signal).ended;
}

/** Runs a flow as part of a tree of runs. */
async function runInTree(
  given: RunRequest,
  ports: Ports,
  signal: AbortSignal,
  tree: RunTree,
  hooks: Hooks,
): Promise<FlowOutcome> {
  const safe = withSafeInput(given);
  const flow = prepareFlow(safe.document);
  // Missing values are removed from the schema before the input is used.
  const isNew = safe.refusal === undefined && !safe.resume?.length && safe.trial?.only === undefined;
  const request = isNew ? { ...safe, input: withDefaults(flow.input, safe.input) } : safe;
  const replay = request.resume && request.resume.length > 0 ? new Replay(request.resume) : null;
  if (replay?.ended) {
    const { state, result, error, run, receipt } = replay.ended;
    // To whoever called it, a run that was cut has failed.
    const seen = state === 'interrupted' ? 'failed' : (state as FlowOutcome['state']);
    return {
      run,
      state: seen,
      result,
      ...(error && { error }),
      ...(receipt && { receipt: receipt as unknown as Receipt }),
    };
  }
  const begun = replay?.entries.find((entry) => entry.type === 'started');
  const now = begun?.at ?? (await ports.clock.now());
  const head = begun?.type === 'started' ? begun.head : headOf(request, now);
  const secrets = [...sensitiveValues(flow.input, request.input), ...(replay?.secrets ?? [])];
  for (const secret of secrets) tree.masker.add(secret);
  const recorder = new Recorder(head, tree.masker, ports, replay?.length ?? 0);
  if (!replay)
    recorder.journal({
      type: 'started',
      head,
      document: asJson(request.document),
      ...(secrets.length > 0 && { sealed: request.input }),
    });
  const span = recorder.span('run', head.flow, head.parentSpan, {
    input: request.input,
    attributes: {
      [attribute.stage]: head.stage,
      [attribute.entry]: head.entry,
      [attribute.revision]: head.revision,
      [attribute.caller]: head.caller.id,
      ...(replay && { [attribute.resumed]: true }),
    },
    again: { id: head.span, start: head.startedAt },
  });
  const run = new FlowRun({
    ...{ flow, head: { ...head, input: request.input }, recorder, span },
    ...{ ports, signal, tree, hooks, replay, runChild: runInTree },
  });
  const outcome = await run.settle(request);
  const { state, result, error, receipt } = outcome;
  recorder.journal({
    ...{ type: 'ended', state, result, ...(error && { error }) },
    ...(receipt && { receipt: asJson(receipt) }),
  });
  await recorder.commit();
  return { ...outcome, result: tree.masker.json(result) };
}
