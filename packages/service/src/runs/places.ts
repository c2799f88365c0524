import { type FlowOutcome, PindroError, type StartedRun } from '@pindro/core';
import { FairQueue } from '../platform/fair-queue.js';

export interface PlaceLimits {
  /** How many may be under way. */
  atOnce: number;
  /** How many may wait for their turn. */
  queue: number;
}

/** Of the queue one caller may take so much. */
const SHARE = 0.25;
/** When whoever is turned away should come back, in seconds. */
const COME_BACK = 5;

/**
 * Places for work under way, a run with all that it calls taking one, so that no run waits for a place that it holds
 * itself. Who finds none free waits, and callers take turns.
 */
export class Places {
  #taken = 0;
  readonly #waiting = new FairQueue();

  constructor(private readonly limits: PlaceLimits) {}

  get state(): { underWay: number; queued: number } {
    return { underWay: this.#taken, queued: this.#waiting.length };
  }

  /**
   * Begins work now, or when it is its turn. Work that was given up meanwhile begins at once, to record just that.
   * @returns with `leave`, which gives the place to the next and may be called more than once
   * @throws workspace_busy
   */
  start(caller: string, start: () => StartedRun, signal: AbortSignal): StartedRun & { leave(): void } {
    if (this.#taken < this.limits.atOnce) return { ...start(), leave: this.#take() };
    const { atOnce, queue } = this.limits;
    const full = this.#waiting.length >= queue || this.#waiting.of(caller) >= Math.max(1, Math.ceil(queue * SHARE));
    if (full) {
      const facts = { limit: atOnce, queued: this.#waiting.length, seconds: COME_BACK };
      throw new PindroError('workspace_busy', facts, { details: facts });
    }
    let leave = () => {};
    const begun = this.#waiting.turn(caller, signal).then(
      () => {
        leave = this.#take();
        return start();
      },
      () => start(),
    );
    const then = (which: (run: StartedRun) => Promise<FlowOutcome>) => begun.then(which);
    return { answered: then((run) => run.answered), ended: then((run) => run.ended), leave: () => leave() };
  }

  /** @returns gives the place to the next */
  #take(): () => void {
    this.#taken++;
    let left = false;
    return () => {
      if (left) return;
      left = true;
      this.#taken--;
      if (this.#taken < this.limits.atOnce) this.#waiting.next();
    };
  }
}
