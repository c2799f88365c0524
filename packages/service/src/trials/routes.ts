import type { StreamEvent } from '@pindro/contract';
import {
  inputSchema,
  type Json,
  type JsonObject,
  Masker,
  PindroError,
  Replay,
  type RunRequest,
  sensitiveValues,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Api, ApiCall } from '../platform/api.js';
import type { Runner } from '../runs/runner.js';
import type { RunStore } from '../runs/store.js';
import type { Stepper } from './stepper.js';
import type { TrialStore } from './store.js';
import { unmask } from './unmask.js';

interface Parts {
  trials: TrialStore;
  stepper: Stepper;
  flows: FlowStore;
  runs: RunStore;
  runner: Runner;
}

const iso = (moment: number) => new Date(moment).toISOString();

/** Addresses for trying a flow out. */
export function trialRoutes(api: Api, { trials, stepper, flows, runs, runner }: Parts): void {
  const settledOf = (run: string) => new Replay(runs.recall(run));

  /** What each step of an earlier run left behind. */
  const outputsOf = (run: string, document: { steps: object }) => {
    const replay = settledOf(run);
    return Object.fromEntries(
      Object.keys(document.steps).flatMap((step) => {
        const settled = replay.settled(step);
        return settled?.state === 'done' ? [[step, settled.output]] : [];
      }),
    );
  };

  const schemaOf = (flow: string) => inputSchema(flows.get(flow).document);
  /** A kept input as it is shown: without what its schema marks as sensitive. */
  const masked = (flow: string, input: Json) => {
    const masker = new Masker();
    for (const secret of sensitiveValues(schemaOf(flow), input)) masker.add(secret);
    return masker.json(input);
  };
  /** An input as it was shown, with what was kept in place of what was masked. */
  const filledIn = (flow: string, input: Json): Json => {
    const kept = trials.samples(flow).map((sample) => [masked(flow, sample.input), sample.input] as const);
    return unmask(input, kept);
  };

  const requestOf = (call: ApiCall<'tryOut'>): RunRequest => {
    const name = call.param('name');
    const { input, trial, session } = call.body;
    const { document } = flows.loadNow(name, 'draft');
    const base = {
      document,
      revision: null,
      stage: 'draft' as const,
      entry: 'hand' as const,
      caller: call.who.caller,
      session: session ?? null,
    };
    if (trial.only) {
      const { step, run } = trial.only;
      if (!Object.hasOwn(document.steps, step))
        throw new PindroError('not_found', { what: 'step', name: step, suggestion: '' });
      return {
        ...base,
        input: runs.inputOf(run),
        trial: { only: { step, outputs: outputsOf(run, document) } },
      };
    }
    const whole = filledIn(name, input as Json);
    trials.keepSample(name, '', whole);
    return {
      ...base,
      input: whole,
      trial: { ...(trial.held && { held: trials.heldResults(name) }), stepping: trial.stepping },
    };
  };
  api.stream('tryOut', async (call, send) => {
    const outcome = await runner.watch(requestOf(call), send as (event: StreamEvent) => void);
    send({ type: 'outcome', outcome: runner.present(outcome) });
  });
  api.on('stepOn', (call) => {
    stepper.say(call.param('id'), call.body.go, call.body.path);
    return { done: true };
  });

  api.on('holdStep', (call) => {
    const [flow, step, { run }] = [call.param('name'), call.param('step'), call.body];
    flows.get(flow);
    const settled = settledOf(run).settled(step);
    if (settled?.state !== 'done')
      throw new PindroError('request_invalid', {
        why: `Step "${step}" has no result in run ${run} that could be held`,
      });
    trials.hold(flow, step, run, { output: settled.output as JsonObject, branch: settled.branch });
    return { done: true };
  });
  api.on('releaseStep', (call) => {
    trials.release(call.param('name'), call.param('step'));
    return { done: true };
  });
  api.on('flowTrials', (call) => {
    const flow = flows.get(call.param('name')).name;
    return {
      held: trials.heldSteps(flow).map((one) => ({ ...one, heldAt: iso(one.heldAt) })),
      samples: trials.samples(flow).map(({ name, input }) => ({ name, input: masked(flow, input) })) as never,
    };
  });
  api.on('keepSample', (call) => {
    const { name, input } = call.body;
    const flow = flows.get(call.param('name')).name;
    trials.keepSample(flow, name, filledIn(flow, input as Json));
    return { done: true };
  });
  api.on('removeSample', (call) => {
    trials.removeSample(call.param('name'), call.param('sample'));
    return { done: true };
  });
}
