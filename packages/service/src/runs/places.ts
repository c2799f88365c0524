import { type FlowOutcome, PindroError, type StartedRun } from '@pindro/core';
import { FairQueue } from '../platform/fair-queue.js';

export interface PlaceLimits {
  /** Maximum number in progress. */
  atOnce: number;
  /** How many may wait for their turn. */
  queue: number;
}

/** Of the queue one caller may take so much. */
const SHARE = 0.25;
/** When whoever is turned away should come back, in seconds. */
const COME_BACK = 5;

/**
 * Slots for running work. A run and all it calls take one, so that no run waits for a slot that it holds itself.
 * Without a free slot callers wait in turns.
 */
export class Places {
  #taken = 0;
  readonly #waiting = new FairQueue();

  constructor(private readonly limits: PlaceLimits) {}

  get state(): { underWay: number; queued: number } {
    return { underWay: this.#taken, queued: this.#waiting.length };
  }

  /**
   * Starts work now, or in its turn. Cancelled work starts immediately, to record just that.
   * @returns with `leave`, which releases the slot and may be called repeatedly
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
