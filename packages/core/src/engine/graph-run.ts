import { type LinkedAbort, linkAbort, noAbort } from '../async/abort.js';
import { giveWay } from '../async/yield.js';
import { asPindroError, PindroError } from '../errors/errors.js';
import { noValue, type Scope } from '../expression/template.js';
import { isObject, type Json, type JsonObject } from '../json/json.js';
import type { StepOutcome, StepServices } from '../steps/kind.js';
import type { RunContext } from '../tools/run-context.js';
import type { Recorder } from '../trace/journal/recorder.js';
import type { Receipt } from '../trace/receipts/receipt.js';
import { attribute } from '../trace/spans/attributes.js';
import { doStep } from './attempt.js';
import type { PreparedGraph, PreparedStep } from './prepared.js';
import type { Replay } from './replay.js';
import { type Settlement, verdict } from './schedule.js';

/** What one run hands to each of its graphs: that of the flow, and those of its loops. */
export interface RunParts {
  /** What its steps have in common. */
  run: RunContext;
  replay: Replay | null;
  /** Waits at a paused step. @returns whether to continue */
  before?(path: string, signal: AbortSignal): Promise<boolean>;
  /** A stubbed result. */
  held?(path: string): { output: JsonObject; branch: string | null } | undefined;
  /** Told what the receipt of a step says. */
  took(receipt: Receipt): void;
  /** Told of a step that was to change rows and matched none. */
  unmatched(step: string): void;
  /** What a step may ask of the run. */
  services(step: PreparedStep, path: string, span: string, scope: Scope, signal: AbortSignal): StepServices;
}

/** Where a graph runs: in a flow, or in one turn of a loop. */
export interface GraphPlace {
  /** Stands before the names of the steps in the journal: nothing, or STEP/INDEX/. */
  prefix: string;
  scope: Scope;
  /** What expressions see as `steps`; filled as steps settle. */
  outputs: { [step: string]: Json };
  /** The span that its steps stand under. */
  span: string;
  recorder: Recorder;
}

/** A running graph of steps. */
export class GraphRun {
  readonly #settled = new Map<string, Settlement>();
  readonly #begun = new Set<string>();
  readonly #stop: LinkedAbort;
  #ended: { result: Json } | null = null;
  #failure: PindroError | null = null;

  constructor(
    private readonly graph: PreparedGraph,
    private readonly parts: RunParts,
    private readonly place: GraphPlace,
    signal: AbortSignal,
  ) {
    // A single step has no siblings to stop; a signal per item would cost more than the item.
    this.#stop = graph.steps.size === 1 ? noAbort(signal) : linkAbort(signal);
  }

  /** Runs every step that is to run. @returns the result @throws what made the run fail */
  async finish(): Promise<Json> {
    await this.#go(this.graph.steps.keys()).finally(this.#stop.release);
    if (this.#failure) throw this.#failure;
    if (this.#stop.signal.aborted && !this.#ended) throw this.#stop.signal.reason;
    if (this.#ended) return this.#ended.result;
    if (!this.graph.result) return null;
    const { value, missing } = this.graph.result.fill(this.place.scope);
    if (value === undefined || missing.some((one) => one.required)) throw noValue(missing[0]!);
    return value;
  }

  /** Does one step alone; what it comes after is taken as done. */
  async only(name: string): Promise<Json> {
    await this.#perform(this.graph.steps.get(name)!, false).finally(this.#stop.release);
    if (this.#failure) throw this.#failure;
    if (this.#stop.signal.aborted && !this.#ended) throw this.#stop.signal.reason;
    return this.place.outputs[name] ?? null;
  }

  /** Starts the steps whose predecessors have finished. */
  async #go(names: Iterable<string>): Promise<void> {
    const begun: Promise<void>[] = [];
    const queue = [...names];
    for (let at = 0; at < queue.length; at++) {
      const name = queue[at]!;
      if (this.#begun.has(name) || this.#stop.signal.aborted) continue;
      const step = this.graph.steps.get(name)!;
      const judged = verdict(this.graph, step, this.#settled);
      if (judged === 'wait') continue;
      this.#begun.add(name);
      if (judged === 'run' && !step.document.off) begun.push(this.#perform(step));
      else {
        // There, but empty: "has(steps.x.text)" then says no instead of failing.
        if (!Object.hasOwn(this.place.outputs, name)) this.place.outputs[name] = {};
        this.#settle(step, { state: 'skipped', branch: null });
        queue.push(...this.graph.next.get(name)!);
      }
    }
    if (begun.length === 1) await begun[0];
    else if (begun.length > 0) await Promise.all(begun);
  }

  async #perform(step: PreparedStep, goOn = true): Promise<void> {
    const path = this.place.prefix + step.name;
    const { parts } = this;
    const { recorder } = this.place;
    const pause = giveWay();
    if (pause) await pause;
    if (this.#stop.signal.aborted) return;
    try {
      const done = parts.replay?.settled(path);
      if (done) {
        if (!this.#takeUp(step, done)) return;
      } else {
        if (parts.before && !(await parts.before(path, this.#stop.signal))) return this.#abandon();
        recorder.live({ kind: 'step', path, state: 'running' });
        const begun = Date.now();
        if (parts.replay?.leftOpen(path) && !step.kind.ledger)
          throw new PindroError('interrupted', {}, { at: step.at });
        const { outcome, attempt } = this.#held(step, path) ?? (await this.#do(step, path));
        this.place.outputs[step.name] = outcome.output;
        this.#receipt(step, outcome.output.receipt);
        const branch = outcome.branch ?? null;
        if (step.kind.name === 'table' && outcome.output.count === 0 && branch === null)
          this.parts.unmatched(step.name);
        recorder.journal({ type: 'step_settled', path, attempt, state: 'done', branch, output: outcome.output });
        this.#settle(step, { state: 'done', branch }, Date.now() - begun);
        if (outcome.ends) return this.#end(step, outcome.ends);
      }
    } catch (thrown) {
      const error = asPindroError(thrown);
      this.#receipt(step, (error as { receipt?: Json }).receipt);
      if (!this.#fail(step, path, error)) return;
    }
    if (goOn) await this.#go(this.graph.next.get(step.name)!);
  }

  #do(step: PreparedStep, path: string): Promise<{ outcome: StepOutcome; attempt: number }> {
    const { parts } = this;
    return doStep(step, this.place.scope, {
      run: parts.run,
      recorder: this.place.recorder,
      path,
      parentSpan: this.place.span,
      signal: this.#stop.signal,
      firstAttempt: parts.replay?.attempt(path),
      again: parts.replay?.span(path),
      parkedUntil: parts.replay?.until(path),
      services: (span, scope) => parts.services(step, path, span, scope, this.#stop.signal),
    });
  }

  #held(step: PreparedStep, path: string): { outcome: StepOutcome; attempt: number } | null {
    const kept = this.parts.held?.(path);
    if (!kept) return null;
    this.place.recorder
      .span('step', step.name, this.place.span, {
        attributes: { [attribute.kind]: step.kind.name, [attribute.path]: path, [attribute.held]: true },
      })
      .done(kept.output);
    return { outcome: { output: kept.output, ...(kept.branch && { branch: kept.branch }) }, attempt: 1 };
  }

  /** Applies the recorded state of a step. @returns whether the run continues after it */
  #takeUp(step: PreparedStep, done: NonNullable<ReturnType<Replay['settled']>>): boolean {
    const { on_error = 'stop' } = step.document;
    this.#settled.set(step.name, { state: done.state, branch: done.branch });
    this.#receipt(step, done.output.receipt);
    if (done.state !== 'failed') this.place.outputs[step.name] = done.output;
    else if (on_error === 'stop') {
      this.#failure ??= PindroError.from(done.error!);
      this.#stop.abort(new PindroError('cancelled', { what: 'Steps that ran in parallel with the failed step' }));
      return false;
    } else this.place.outputs[step.name] = { error: { code: done.error!.code, message: done.error!.message } };
    return true;
  }

  #receipt(step: PreparedStep, receipt: Json | undefined): void {
    if (step.kind.receipt && isObject(receipt)) this.parts.took(receipt as unknown as Receipt);
  }

  #settle(step: PreparedStep, settlement: Settlement, ms?: number): void {
    this.#settled.set(step.name, settlement);
    this.place.recorder.live({
      kind: 'step',
      path: this.place.prefix + step.name,
      state: settlement.state,
      ...(ms !== undefined && { ms }),
    });
  }

  /** Whoever steps through the flow has had enough. */
  #abandon(): void {
    this.#stop.abort(new PindroError('cancelled', { what: 'The run' }));
  }

  #end(step: PreparedStep, ends: NonNullable<StepOutcome['ends']>): void {
    if (ends.as === 'done') this.#ended ??= { result: ends.result };
    else
      this.#failure ??= new PindroError(
        'stopped_as_failed',
        { message: ends.message },
        { at: step.at, details: { step: step.name } },
      );
    this.#stop.abort(new PindroError('cancelled', { what: 'Steps that ran in parallel' }));
  }

  /** @returns whether the run continues despite the failure */
  #fail(step: PreparedStep, path: string, error: PindroError): boolean {
    const { on_error = 'stop' } = step.document;
    const attempt = (error as { attempt?: number }).attempt ?? 1;
    const branch = on_error === 'branch' ? 'error' : null;
    this.place.recorder.journal({
      type: 'step_settled',
      path,
      attempt,
      state: 'failed',
      branch,
      output: null,
      error: error.toRecord(),
    });
    this.#settle(step, { state: 'failed', branch });
    if (on_error !== 'stop' && !this.#stop.signal.aborted) {
      this.place.outputs[step.name] = {
        error: this.place.recorder.masker.json({ code: error.code, message: error.message }),
      };
      return true;
    }
    if (!this.#stop.signal.aborted) {
      this.#failure ??= error;
      this.#stop.abort(new PindroError('cancelled', { what: 'Steps that ran in parallel with the failed step' }));
    }
    return false;
  }
}
