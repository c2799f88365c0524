import type { StreamEvent } from '@pindro/contract';
import {
  inputSchema,
  type Json,
  type JsonObject,
  Masker,
  PindroError,
  type Ports,
  Replay,
  type RunRequest,
  sensitiveValues,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Objects } from '../objects/objects.js';
import type { Api, ApiCall } from '../platform/api.js';
import type { RunStore } from '../record/reading/run-store.js';
import type { Runner } from '../runs/runner.js';
import { unmask } from '../runs/unmask.js';
import { previewOf } from './preview.js';
import type { Stepper } from './stepper.js';
import type { TrialStore } from './store.js';

interface Parts {
  trials: TrialStore;
  stepper: Stepper;
  flows: FlowStore;
  runs: RunStore;
  runner: Runner;
  runPorts: Ports;
  objects: Objects;
}

const iso = (moment: number) => new Date(moment).toISOString();

/** Addresses for trying a flow out. */
export function trialRoutes(api: Api, { trials, stepper, flows, runs, runner, runPorts, objects }: Parts): void {
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

  const schemaOf = (flow: string) => inputSchema(flows.drafts.get(flow).document);
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

  const requestOf = (call: ApiCall<'runDraftTrial'>): RunRequest => {
    const { name } = flows.drafts.get(call.param('name'));
    const { input, trial, session, capture } = call.body;
    const { document } = flows.loadNow(name, 'draft');
    const base = {
      document,
      revision: null,
      stage: 'draft' as const,
      entry: 'hand' as const,
      caller: call.who.caller,
      session: session ?? null,
      exact: capture,
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
    trials.saveSample(name, '', whole);
    return {
      ...base,
      input: whole,
      trial: { ...(trial.held && { held: trials.heldResults(name) }), stepping: trial.stepping },
    };
  };
  api.stream('runDraftTrial', async (call, send) => {
    const outcome = await runner.watch(requestOf(call), send as (event: StreamEvent) => void);
    send({ type: 'outcome', outcome: runner.present(outcome) });
  });
  api.on('previewModel', async (call) => {
    const { name } = flows.drafts.get(call.param('name'));
    const { document } = flows.loadNow(name, 'draft');
    const { step, run, input, session } = call.body;
    if (!Object.hasOwn(document.steps, step))
      throw new PindroError('not_found', { what: 'step', name: step, suggestion: '' });
    const request: RunRequest = {
      ...{ document, revision: null, stage: 'draft', entry: 'hand', caller: call.who.caller, session: session ?? null },
      input: input === undefined ? runs.inputOf(requireRun(run)) : filledIn(name, input as Json),
      trial: { only: { step, outputs: run === undefined ? {} : outputsOf(run, document) } },
    };
    return previewOf(request, runPorts);
  });
  api.on('continueRun', (call) => {
    stepper.say(call.param('id'), call.body.go, call.body.path);
    return { done: true };
  });

  api.on('stubStep', (call) => {
    const { name: flow } = flows.drafts.get(call.param('name'));
    const [step, { run }] = [call.param('step'), call.body];
    const settled = settledOf(run).settled(step);
    if (settled?.state !== 'done')
      throw new PindroError('request_invalid', {
        why: `Step "${step}" has no result in run ${run} that could be stubbed`,
      });
    trials.hold(flow, step, run, { output: settled.output as JsonObject, branch: settled.branch });
    return { done: true };
  });
  api.on('removeStub', (call) => {
    trials.release(flows.drafts.get(call.param('name')).name, call.param('step'));
    return { done: true };
  });
  api.on('flowTrials', (call) => {
    const flow = flows.drafts.get(call.param('name')).name;
    return {
      held: trials.heldSteps(flow).map((one) => ({ ...one, heldAt: iso(one.heldAt) })),
      samples: trials.samples(flow).map(({ name, input }) => ({ name, input: masked(flow, input) })),
    };
  });
  api.on('saveSample', (call) => {
    const { name, input, fresh } = call.body;
    const flow = flows.drafts.get(call.param('name')).name;
    if (fresh) trials.requireFree(flow, name);
    trials.saveSample(flow, name, filledIn(flow, input as Json));
    return { done: true };
  });
  const sampleOf = (call: { param(name: string): string }) => {
    const flow = flows.drafts.get(call.param('name')).name;
    const name = call.param('sample');
    return { flow, name, input: trials.requireSample(flow, name) };
  };
  api.on('getSample', (call) => {
    const { flow, name, input } = sampleOf(call);
    return { name, input: masked(flow, input) };
  });
  api.on('renameSample', (call) => {
    const { flow, name } = sampleOf(call);
    trials.renameSample(flow, name, call.body.to);
    return { name: call.body.to, changed: [] };
  });
  api.on('copySample', (call) => {
    const { flow, name } = sampleOf(call);
    trials.copySample(flow, name, call.body.to);
    return { name: call.body.to };
  });
  api.on('removeSample', (call) => {
    const { flow, name } = sampleOf(call);
    const words = `${flow}/${name}`;
    return objects.remove('sample', words, { by: call.who.name, ...call.query }, ({ take, tell }) => {
      take('samples', { flow, name });
      tell('flow', flow);
    });
  });
}

function requireRun(run: string | undefined): string {
  if (run !== undefined) return run;
  throw new PindroError('request_invalid', { why: 'Give an input, or a run to take it from' }, { at: '/input' });
}
