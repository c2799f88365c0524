import { type LinkedAbort, linkAbort } from '../abort.js';
import type { FlowOutcome, StartFlow } from '../agent/toolbox.js';
import { asPindroError, PindroError } from '../errors.js';
import { noValue, type Scope } from '../expression/template.js';
import type { FlowDocument } from '../flow/document.js';
import { findUnsafe, type Json } from '../json.js';
import type { Ports } from '../ports.js';
import { sentence, validate } from '../tools/schema.js';
import { newRunId, newTraceId } from '../trace/ids.js';
import type { Caller, Entry, RunHead, Stage } from '../trace/journal.js';
import { Masker, sensitiveValues } from '../trace/masking.js';
import { type OpenSpan, Recorder } from '../trace/recorder.js';
import { doStep } from './attempt.js';
import { type PreparedFlow, type PreparedStep, prepareFlow } from './prepared.js';
import { type Settlement, verdict } from './schedule.js';
import { today } from './today.js';

/** Flows may call one another this deep. */
const MAX_CALLS = 10;

export interface RunRequest {
  document: FlowDocument;
  revision: number | null;
  stage: Stage;
  entry: Entry;
  caller: Caller;
  /** What conversation or client session the run belongs to; without one the run is its own. */
  session: string | null;
  input: Json;
  runId?: string;
  traceId?: string;
  /** The span of the caller under which the run stands, also when it is somebody else's (W3C trace context). */
  parentSpan?: string | null;
  parentRun?: string | null;
  /** Set when the call was refused before it began; the run is then only the record of the refusal. */
  refusal?: PindroError;
}

/** Kept by a run for the runs it starts. */
interface Family {
  depth: number;
  masker: Masker;
}

/**
 * Runs a flow to its end. Never throws for what happens inside the run: that is in the outcome and the record.
 * The outcome is returned only once the record of it is on disk.
 */
export async function runFlow(request: RunRequest, ports: Ports, signal: AbortSignal): Promise<FlowOutcome> {
  return runInFamily(request, ports, signal, { depth: 0, masker: new Masker() });
}

async function runInFamily(
  request: RunRequest,
  ports: Ports,
  signal: AbortSignal,
  family: Family,
): Promise<FlowOutcome> {
  const flow = prepareFlow(request.document);
  const now = await ports.clock.now();
  const id = request.runId ?? newRunId(now);
  const head: RunHead = {
    id,
    traceId: request.traceId ?? newTraceId(),
    parentSpan: request.parentSpan ?? null,
    parentRun: request.parentRun ?? null,
    flow: request.document.name,
    revision: request.revision,
    stage: request.stage,
    entry: request.entry,
    caller: request.caller,
    session: request.session ?? id,
    input: request.input,
    startedAt: now,
  };
  const secrets = sensitiveValues(flow.input, request.input);
  for (const secret of secrets) family.masker.add(secret);
  const recorder = new Recorder(head, family.masker, ports.record);
  recorder.journal({ type: 'started', head, ...(secrets.length > 0 && { sealed: request.input }) });
  const span = recorder.span('run', head.flow, head.parentSpan, {
    input: request.input,
    attributes: {
      'pindro.stage': head.stage,
      'pindro.entry': head.entry,
      'pindro.revision': head.revision,
      'enduser.id': head.caller.id,
    },
  });
  const outcome = await settleRun(flow, head, recorder, span, ports, signal, family, request.refusal);
  const { state, result, error } = outcome;
  recorder.journal({ type: 'ended', state, result, ...(error && { error }) });
  await recorder.commit();
  return { ...outcome, result: family.masker.json(result) };
}

async function settleRun(
  flow: PreparedFlow,
  head: RunHead,
  recorder: Recorder,
  span: OpenSpan,
  ports: Ports,
  signal: AbortSignal,
  family: Family,
  refusal?: PindroError,
): Promise<FlowOutcome> {
  try {
    if (refusal) throw refusal;
    refuseInput(flow, head.input);
    if (family.depth > MAX_CALLS) throw new PindroError('flow_too_deep', { limit: MAX_CALLS, flow: head.flow });
    const result = await new FlowRun(flow, head, recorder, span.id, ports, signal, family).finish();
    span.done(result);
    return { run: head.id, state: 'done', result };
  } catch (thrown) {
    const told = signal.aborted ? cancellation(signal, head.flow) : asPindroError(thrown);
    span.fail(told);
    return {
      run: head.id,
      state: told.code === 'cancelled' ? 'cancelled' : 'failed',
      result: null,
      error: family.masker.json(told.toRecord() as never),
    };
  }
}

function cancellation(signal: AbortSignal, flow: string): PindroError {
  return signal.reason instanceof PindroError
    ? signal.reason
    : new PindroError('cancelled', { what: `The run of "${flow}"` });
}

function refuseInput(flow: PreparedFlow, input: Json): void {
  const unsafe = findUnsafe(input);
  if (unsafe)
    throw new PindroError('value_unsafe', { where: unsafe.at || 'the top', why: unsafe.why }, { at: unsafe.at });
  const mistakes = validate(flow.input, input);
  if (mistakes.length === 0) return;
  const argument = mistakes[0]!.at.split('/')[1] ?? '';
  throw new PindroError(
    'input_refused',
    { why: sentence(mistakes), fix: 'Send it again with these inputs mended.' },
    { at: mistakes[0]!.at, mistakes, details: { argument } },
  );
}

/** A run under way: its steps as they settle. */
class FlowRun {
  readonly #settled = new Map<string, Settlement>();
  readonly #begun = new Set<string>();
  readonly #outputs: { [step: string]: Json } = {};
  readonly #stop: LinkedAbort;
  #ended: { result: Json } | null = null;
  #failure: PindroError | null = null;
  #scope: Scope = {};

  constructor(
    private readonly flow: PreparedFlow,
    private readonly head: RunHead,
    private readonly recorder: Recorder,
    private readonly span: string,
    private readonly ports: Ports,
    signal: AbortSignal,
    private readonly family: Family,
  ) {
    this.#stop = linkAbort(signal);
  }

  /** Runs every step that is to run. @returns the result @throws what made the run fail */
  async finish(): Promise<Json> {
    const { head } = this;
    const zone = await this.ports.clock.zone();
    this.#scope = {
      input: head.input,
      steps: this.#outputs,
      caller: { ...head.caller.attributes, id: head.caller.id },
      session: { id: head.session },
      run: { id: head.id, flow: head.flow, stage: head.stage },
      clock: { now: new Date(head.startedAt), today: today(head.startedAt, zone), zone },
    };
    await this.#go([...this.flow.steps.keys()]).finally(this.#stop.release);
    if (this.#failure) throw this.#failure;
    if (this.#stop.signal.aborted && !this.#ended) throw this.#stop.signal.reason;
    if (this.#ended) return this.#ended.result;
    if (!this.flow.result) return null;
    const { value, missing } = this.flow.result.fill(this.#scope);
    if (value === undefined || missing.some((one) => one.required)) throw noValue(missing[0]!);
    return value;
  }

  /** Begins those of the given steps that can begin; what comes after each goes on from there. */
  async #go(names: readonly string[]): Promise<void> {
    const begun: Promise<void>[] = [];
    const queue = [...names];
    for (let name = queue.shift(); name !== undefined; name = queue.shift()) {
      if (this.#begun.has(name) || this.#stop.signal.aborted) continue;
      const judged = verdict(this.flow, name, this.#settled);
      if (judged === 'wait') continue;
      this.#begun.add(name);
      if (judged === 'run') begun.push(this.#perform(this.flow.steps.get(name)!));
      else {
        this.#settle(name, { state: 'skipped', branch: null });
        queue.push(...this.flow.graph.next.get(name)!);
      }
    }
    if (begun.length > 0) await Promise.all(begun);
  }

  async #perform(step: PreparedStep): Promise<void> {
    const { recorder, head } = this;
    const path = step.name;
    recorder.live({ kind: 'step', path, state: 'running' });
    try {
      const { outcome, attempt } = await doStep(step, this.#scope, {
        ports: this.ports,
        recorder,
        parentSpan: this.span,
        signal: this.#stop.signal,
        flow: head.flow,
        stage: head.stage,
        caller: head.caller,
        startFlow: this.#startFlow,
      });
      this.#outputs[path] = outcome.output;
      recorder.journal({
        type: 'step_settled',
        path,
        attempt,
        state: 'done',
        branch: outcome.branch ?? null,
        output: outcome.output,
      });
      this.#settle(path, { state: 'done', branch: outcome.branch ?? null });
      if (outcome.ends) return this.#end(step, outcome.ends);
    } catch (thrown) {
      if (!this.#fail(step, asPindroError(thrown))) return;
    }
    await this.#go(this.flow.graph.next.get(path)!);
  }

  #settle(path: string, settlement: Settlement): void {
    this.#settled.set(path, settlement);
    this.recorder.live({ kind: 'step', path, state: settlement.state });
  }

  #end(step: PreparedStep, ends: { as: 'done' | 'failed'; result: Json; message: string }): void {
    if (ends.as === 'done') this.#ended ??= { result: ends.result };
    else
      this.#failure ??= new PindroError(
        'stopped_as_failed',
        { message: ends.message },
        { at: `/steps/${step.name}`, details: { step: step.name } },
      );
    this.#stop.abort(new PindroError('cancelled', { what: 'What ran beside it' }));
  }

  /** @returns whether the run goes on in spite of the failure */
  #fail(step: PreparedStep, error: PindroError): boolean {
    const path = step.name;
    const { on_error = 'stop' } = step.document;
    const attempt = (error as { attempt?: number }).attempt ?? 1;
    this.recorder.journal({
      type: 'step_settled',
      path,
      attempt,
      state: 'failed',
      branch: on_error === 'branch' ? 'error' : null,
      output: null,
      error: error.toRecord(),
    });
    this.#settle(path, { state: 'failed', branch: on_error === 'branch' ? 'error' : null });
    if (on_error !== 'stop' && !this.#stop.signal.aborted) {
      this.#outputs[path] = { error: this.family.masker.json({ code: error.code, message: error.message }) };
      return true;
    }
    if (!this.#stop.signal.aborted) {
      this.#failure ??= error;
      this.#stop.abort(new PindroError('cancelled', { what: 'What ran beside the failed step' }));
    }
    return false;
  }

  readonly #startFlow: StartFlow = async (name, input, { parentSpan, entry, signal }) => {
    const { head, ports, family } = this;
    const { document, revision } = await ports.flows.load(name, head.stage);
    const request: RunRequest = {
      document: document as unknown as FlowDocument,
      revision,
      stage: head.stage,
      entry,
      caller: head.caller,
      session: head.session,
      input,
      traceId: head.traceId,
      parentSpan,
      parentRun: head.id,
    };
    return runInFamily(request, ports, signal, { ...family, depth: family.depth + 1 });
  };
}
