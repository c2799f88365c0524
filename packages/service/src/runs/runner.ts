import type { Outcome, RunSummary } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core';
import {
  asPindroError,
  type FlowOutcome,
  newRunId,
  newTraceId,
  PindroError,
  type Ports,
  type RunRequest,
  refuseManyInputs,
  startFlow,
} from '@pindro/core';
import type { Bus } from '../platform/events.js';
import { type PlaceLimits, Places } from './places.js';

interface Work {
  stop: AbortController;
  /** The outcome for its caller. */
  outcome: Promise<FlowOutcome>;
  /** Ends when the run and all it began have ended. */
  done: Promise<FlowOutcome>;
}

interface RunnerParts {
  ports: Ports;
  bus: Bus;
  address(): string;
  /** Why nothing can be recorded now, or null. */
  trouble(): PindroError | null;
  /** The outcome of a finished run. */
  ended(run: string): FlowOutcome;
  limits: PlaceLimits;
}

/** Starts runs in this process and keeps hold of them until they end. */
export class Runner {
  readonly #work = new Map<string, Work>();
  readonly #places: Places;
  #closing = false;

  constructor(private readonly parts: RunnerParts) {
    this.#places = new Places(parts.limits);
  }

  /** Numbers of runs in progress and queued. */
  get places(): { underWay: number; queued: number } {
    return this.#places.state;
  }

  /**
   * Starts a run. Its ID is known immediately.
   * @returns `outcome`: result for its caller, possibly waiting; `ended`: how it ended
   */
  begin(
    request: RunRequest,
    from?: AbortSignal | AbortController,
  ): { run: string; trace: string; outcome: Promise<FlowOutcome>; ended: Promise<FlowOutcome> } {
    if (this.#closing) throw new PindroError('stopping');
    const trouble = this.parts.trouble();
    if (trouble) throw trouble;
    refuseManyInputs(request.input);
    const run = request.runId ?? newRunId();
    const trace = request.traceId ?? newTraceId();
    // A controller is taken as it is; one hop fewer counts where tools are called by the thousand.
    const signal = from instanceof AbortController ? undefined : from;
    const stop = from instanceof AbortController ? from : new AbortController();
    const cancel = () => stop.abort(signal?.reason);
    if (signal?.aborted) cancel();
    signal?.addEventListener('abort', cancel, { once: true });
    const letGo = () => signal?.removeEventListener('abort', cancel);
    const start = () => startFlow({ ...request, runId: run, traceId: trace }, this.parts.ports, stop.signal);
    // Resumed runs had their slot before; stepped runs would hold one for long.
    const counted = !request.resume && !request.trial?.stepping;
    const { answered, ended, leave } = counted
      ? this.#places.start(request.caller.id, start, stop.signal)
      : { ...start(), leave: () => {} };
    const done = ended.finally(() => {
      letGo();
      leave();
      this.#work.delete(run);
    });
    // A run whose record failed has told whoever waits for it; that nobody does must not end the service.
    done.catch(() => {});
    // The caller may disconnect after the answer; the run continues. A run that waits for a person or a time takes no
    // slot.
    const outcome = answered.then((answer) => {
      letGo();
      if (answer.state === 'waiting') leave();
      return answer;
    });
    outcome.catch(() => {});
    this.#work.set(run, { stop, outcome, done });
    return { run, trace, outcome, ended: done };
  }

  /** The outcome for the caller of a run, also if it has ended or resumed after a restart. */
  async outcomeOf(run: string): Promise<FlowOutcome> {
    return this.#work.get(run)?.outcome ?? this.parts.ended(run);
  }

  cancel(run: string): boolean {
    const work = this.#work.get(run);
    work?.stop.abort(new PindroError('cancelled', { what: 'The run' }));
    return work !== undefined;
  }

  /** Begins a run and tells what happens in it until it ends. Whoever stops watching has not cancelled it. */
  async watch(
    request: RunRequest,
    send: (event: { type: 'live'; run: string; live: LiveEvent } | { type: 'run'; run: RunSummary }) => void,
  ): Promise<FlowOutcome> {
    const { trace, outcome } = this.begin(request);
    const onLive = (event: { run: string; trace: string; live: LiveEvent }) => {
      if (event.trace === trace) send({ type: 'live', run: event.run, live: event.live });
    };
    this.parts.bus.on('live', onLive);
    try {
      return await outcome;
    } finally {
      this.parts.bus.off('live', onLive);
    }
  }

  present(outcome: FlowOutcome): Outcome {
    return {
      run: outcome.run,
      url: this.urlOf(outcome.run),
      state: outcome.state,
      result: outcome.result,
      waitsFor: outcome.waitsFor ?? null,
      error: (outcome.error ?? null) as Outcome['error'],
      receipt: (outcome.receipt ?? null) as Outcome['receipt'],
    };
  }

  urlOf(run: string): string {
    return `${this.parts.address()}/runs/${run}`;
  }

  /**
   * Lets runs finish for a while, then stops the rest, which resumes at the next start. Waiting callers are notified.
   * @param waits whether a run waits for a person or a time
   * @param freeze called before anything is stopped
   */
  async close(patience: number, waits: (run: string) => boolean, freeze: () => void): Promise<void> {
    this.#closing = true;
    const ended = (runs: [string, Work][]) =>
      Promise.allSettled(runs.map(([, work]) => work.done.catch(asPindroError)));
    const all = ended([...this.#work].filter(([run]) => !waits(run)));
    let timer: NodeJS.Timeout | undefined;
    await Promise.race([
      all,
      new Promise((resolve) => {
        timer = setTimeout(resolve, patience);
      }),
    ]);
    clearTimeout(timer);
    freeze();
    const left = [...this.#work];
    for (const [, work] of left) work.stop.abort(new PindroError('stopping'));
    await ended(left);
    // Waiting callers are notified in the next turns.
    for (let turn = 0; turn < 10; turn++) await new Promise((resolve) => setImmediate(resolve));
  }
}
