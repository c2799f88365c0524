import { type LinkedAbort, linkAbort, noAbort } from '../async/abort.js';
import { giveWay, letOthers } from '../async/yield.js';
import { asPindroError, PindroError } from '../errors/errors.js';
import type { Scope } from '../expression/template.js';
import { unmatchedSteps } from '../flow/unmatched.js';
import { isLong, type Json } from '../json/json.js';
import type { Ports } from '../ports/ports.js';
import type { StepServices } from '../steps/kind.js';
import type { Budget } from '../tools/budget.js';
import type { FlowOutcome, StartFlow } from '../tools/start-flow.js';
import type { RunHead } from '../trace/journal/head.js';
import type { Parked } from '../trace/journal/journal.js';
import { type OpenSpan, type Recorder, TurnRecorder } from '../trace/journal/recorder.js';
import { type Receipt, togetherOf } from '../trace/receipts/receipt.js';
import type { Masker } from '../trace/secrets/masking.js';
import { attribute } from '../trace/spans/attributes.js';
import { childRequest } from './child.js';
import { GraphRun, type RunParts } from './graph-run.js';
import type { PreparedFlow, PreparedStep } from './prepared.js';
import type { Replay } from './replay.js';
import { type RunRequest, refuseInput } from './request.js';
import { RetainedItems } from './retained-items.js';
import { today } from './today.js';
import type { TreeSize } from './tree-size.js';

/** Inputs longer than this are read and validated in separate turns of the event loop, in characters. */
const LONG_INPUT = 128 * 1024;

/** State that a run shares with the runs it starts. */
export interface RunTree {
  /** Names of the flows that called one another, outermost first. */
  chain: readonly string[];
  size: TreeSize;
  masker: Masker;
  /** Remaining budget of its agents, if it is limited. */
  budget?: Budget | undefined;
  /** Aborted only when the whole tree of runs is to end. */
  signal: AbortSignal;
  /** Runs that continue after their parent run. */
  detached: Set<Promise<unknown>>;
}

/** Called at most once each, before the run ends. */
export interface Hooks {
  answer(outcome: FlowOutcome): void;
  /** @param detach lets the run continue if its parent does not wait */
  park(outcome: FlowOutcome, parked: Parked, detach: () => void): void;
}

/** Runs a flow as part of a tree of runs. @returns how it ended */
type RunInTree = (
  request: RunRequest,
  ports: Ports,
  signal: AbortSignal,
  tree: RunTree,
  hooks: Hooks,
) => Promise<FlowOutcome>;

/** A step that does what is inside of it once per item. */
interface Looping {
  step: PreparedStep;
  path: string;
  scope: Scope;
  signal: AbortSignal;
}

interface RunOptions {
  flow: PreparedFlow;
  head: RunHead;
  recorder: Recorder;
  span: OpenSpan;
  ports: Ports;
  signal: AbortSignal;
  tree: RunTree;
  hooks: Hooks;
  replay: Replay | null;
  /** Runs a flow that a step starts. */
  runChild: RunInTree;
}

/** One run in progress. */
export class FlowRun {
  readonly #outputs: { [step: string]: Json } = {};
  #scope: Scope = {};
  #parts!: RunParts;
  #answered = false;
  #parkedPaths = new Set<string>();
  readonly #receipts: Receipt[] = [];
  /** Steps that were to change rows and matched none. */
  readonly #unmatched = new Set<string>();
  readonly #link: LinkedAbort;

  readonly head: RunHead;
  readonly recorder: Recorder;
  readonly ports: Ports;

  constructor(private readonly options: RunOptions) {
    const { head, recorder, ports, signal, tree } = options;
    this.head = head;
    this.recorder = recorder;
    this.ports = ports;
    // What ends with the whole tree needs no release.
    this.#link = signal === tree.signal ? noAbort(signal) : linkAbort(signal);
  }

  async settle(request: RunRequest): Promise<FlowOutcome> {
    const { head } = this;
    const { tree, span } = this.options;
    try {
      if (request.refusal) throw request.refusal;
      // Reading, checking and recording a large input are one after the other, with others in between.
      const before = isLong(head.input, LONG_INPUT) ? letOthers() : giveWay();
      if (before) await before;
      if (request.trial?.only === undefined) refuseInput(this.options.flow, head.input);
      const after = giveWay();
      if (after) await after;
      const ended = await this.#run(request.trial);
      const result = this.options.replay?.answered
        ? this.options.replay.answered.result
        : this.#answer
          ? this.#answer.result
          : ended;
      span.done(result);
      const unchanged = this.#unmatched.size === 0 ? [] : unmatchedSteps(request.document).map(({ name }) => name);
      const silent = unchanged.filter((name) => this.#unmatched.has(name));
      return {
        run: head.id,
        state: 'done',
        result,
        ...this.#receipt(),
        ...(silent.length > 0 && { unchanged: silent }),
      };
    } catch (thrown) {
      const error = this.#link.signal.aborted ? this.#cancellation() : asPindroError(thrown);
      span.fail(error);
      return {
        run: head.id,
        state: error.code === 'cancelled' ? 'cancelled' : 'failed',
        result: null,
        error: tree.masker.record(error.toRecord()),
        ...this.#receipt(),
      };
    } finally {
      this.#link.release();
    }
  }

  /** What the agents of the run did, as one. */
  #receipt(): { receipt?: Receipt } {
    const receipt = togetherOf(this.#receipts);
    return receipt ? { receipt: this.options.tree.masker.record(receipt) } : {};
  }

  #cancellation(): PindroError {
    const { reason } = this.#link.signal;
    return reason instanceof PindroError
      ? reason
      : new PindroError('cancelled', { what: `The run of "${this.head.flow}"` });
  }

  private trial: RunRequest['trial'];

  async #run(trial: RunRequest['trial']): Promise<Json> {
    this.trial = trial;
    const { head, ports } = this;
    const zone = await ports.clock.zone();
    this.#scope = {
      input: head.input,
      steps: this.#outputs,
      caller: { ...head.caller.attributes, id: head.caller.id },
      session: { id: head.session, client: head.through?.client ?? '', endpoint: head.through?.endpoint ?? '' },
      run: { id: head.id, flow: head.flow, stage: head.stage },
      clock: { now: new Date(head.startedAt), today: today(head.startedAt, zone), zone },
    };
    this.#parts = {
      run: { ports, flow: head.flow, stage: head.stage, caller: head.caller, budget: this.options.tree.budget },
      replay: this.options.replay,
      took: (receipt) => void this.#receipts.push(receipt),
      unmatched: (step) => void this.#unmatched.add(step),
      services: (step, path, span, scope, signal) => this.#services(step, path, span, scope, signal),
      // A try-out reads what was held, and so does who does a run again; whatever else is live never does.
      ...(trial?.held &&
        (head.stage === 'draft' || head.entry === 'again') && { held: (path: string) => trial.held![path] }),
      ...(trial?.stepping && {
        before: (path: string, signal: AbortSignal) => this.#askBefore(path, signal),
      }),
    };
    Object.assign(this.#outputs, trial?.only?.outputs);
    const { recorder } = this;
    const { span } = this.options;
    const place = { prefix: '', scope: this.#scope, outputs: this.#outputs, span: span.id, recorder };
    const graph = new GraphRun(this.options.flow.graph, this.#parts, place, this.#link.signal);
    return trial?.only ? graph.only(trial.only.step) : graph.finish();
  }

  async #askBefore(path: string, signal: AbortSignal): Promise<boolean> {
    // Callers that receive the waiting state read what is recorded so far.
    await this.recorder.commit();
    this.recorder.live({ kind: 'step', path, state: 'waiting' });
    const { go } = await this.ports.stepping.before({ run: this.head.id, path }, { signal });
    return go;
  }

  #answer: { result: Json } | null = null;

  #services(step: PreparedStep, path: string, span: string, scope: Scope, signal: AbortSignal): StepServices {
    return {
      startFlow: this.#startFlow(path, span),
      park: (parked, at = path) => this.#park(at, span, parked, path),
      unpark: (at) => this.#unpark(at, path),
      parkedAt: (at) => this.options.replay?.until(at),
      conversed: () => this.options.replay?.conversed(path) ?? [],
      rehearsal: () => this.trial?.rehearsed?.[path],
      answer: (result) => this.#giveAnswer(result),
      turn: (index, item, parent) => this.#turn({ step, path, scope, signal }, index, item, parent),
    };
  }

  /** The first answer is the caller's; it is on disk before it leaves. */
  async #giveAnswer(result: Json): Promise<void> {
    if (this.#answer || this.options.replay?.answered) return;
    this.#answer = { result };
    this.recorder.journal({ type: 'answered', result });
    await this.recorder.commit();
    this.#tell({ run: this.head.id, state: 'done', result: this.options.tree.masker.json(result) });
  }

  #tell(outcome: FlowOutcome): void {
    if (this.#answered) return;
    this.#answered = true;
    // What the caller stops waiting for must not end when the caller goes away.
    this.#link.follow(this.options.tree.signal);
    this.options.hooks.answer(outcome);
  }

  /** @param step the step that waits, where the place at which it waits is below it */
  async #park(path: string, span: string, parked: Parked, step = path): Promise<void> {
    const { recorder, head } = this;
    if (!this.#parkedPaths.has(path)) {
      this.#parkedPaths.add(path);
      if (this.options.replay?.span(path) === undefined || this.options.replay.until(path) === undefined)
        recorder.journal({ type: 'parked', path, span, ...parked });
      recorder.live({ kind: 'step', path: step, state: 'waiting' });
    }
    await recorder.commit();
    if (this.#answered || this.#answer) return;
    const waitsFor = recorder.masker.record(parked);
    this.options.hooks.park({ run: head.id, state: 'waiting', result: null, waitsFor }, waitsFor, () =>
      this.#link.follow(this.options.tree.signal),
    );
  }

  async #unpark(path: string, step: string): Promise<void> {
    if (!this.#parkedPaths.delete(path)) return;
    if (![...this.#parkedPaths].some((one) => one.startsWith(`${step}/`)))
      this.recorder.live({ kind: 'step', path: step, state: 'running' });
    this.recorder.journal({ type: 'unparked', path });
    await this.recorder.commit();
  }

  readonly #retained = new RetainedItems();

  /** Runs one item of a loop, and keeps its trace if `RetainedItems` says so. */
  async #turn({ step, path, scope, signal }: Looping, index: number, item: Json, parent: string): Promise<Json> {
    const body = step.body!;
    const recorder = new TurnRecorder(this.recorder, this.ports, !body.repeatable);
    const span = recorder.span('item', `${step.name} ${index + 1}`, parent, {
      ...(this.#retained.retainsSuccess(index) && { input: item }),
      attributes: { [attribute.path]: `${path}/${index}`, [attribute.index]: index },
    });
    const outputs = { ...(scope.steps as { [step: string]: Json }) };
    const inner: Scope = { ...scope, steps: outputs, item, index };
    const place = { prefix: `${path}/${index}/`, scope: inner, outputs, span: span.id, recorder };
    const run = new GraphRun(body, this.#parts, place, signal);
    try {
      const result = await run.finish();
      if (this.#retained.retainsSuccess(index)) {
        span.done(result);
        recorder.keep();
      }
      return result;
    } catch (error) {
      if (this.#retained.retainsFailure(path)) {
        span.fail(error);
        recorder.keep();
      }
      throw error;
    }
  }

  #startFlow(path: string, span: string): StartFlow {
    return async (name, input, options) => {
      const { signal, wait = true, at = path } = options;
      const { budget = this.options.tree.budget } = options;
      budget?.take('runs');
      const leave = this.options.tree.size.enter([...this.options.tree.chain, name]);
      const { head, recorder, ports } = this;
      const parent = { head, recorder, ports, replay: this.options.replay };
      const called = { path: at, span, name, input, options: { ...options, wait } };
      const request = await childRequest(parent, called).catch((error) => {
        leave();
        throw error;
      });
      const outcome = await this.#runChild(request, signal, { path: at, step: path, span, wait, budget, leave });
      // A step's wait is recorded once the step has settled; an agent continues before that.
      if (at !== path) await this.#unpark(at, path);
      return outcome;
    };
  }

  #runChild(
    request: RunRequest,
    signal: AbortSignal,
    {
      path,
      step,
      span,
      wait,
      budget,
      leave,
    }: { path: string; step: string; span: string; wait: boolean; budget: Budget | undefined; leave: () => void },
  ): Promise<FlowOutcome> {
    const { ports } = this;
    const { tree } = this.options;
    return new Promise<FlowOutcome>((resolve, reject) => {
      const hooks: Hooks = {
        answer: resolve,
        park: (_, parked) => {
          if (wait) void this.#park(path, span, { ...parked, for: 'run' }, step).catch(reject);
        },
      };
      const outer = wait ? signal : tree.signal;
      const inner = { ...tree, budget, chain: [...tree.chain, request.document.name] };
      const run = this.options.runChild(request, ports, outer, inner, hooks);
      tree.detached.add(run);
      run.then(resolve, reject).finally(() => {
        leave();
        tree.detached.delete(run);
      });
      if (!wait) resolve({ run: request.runId!, state: 'running', result: null });
    });
  }
}
