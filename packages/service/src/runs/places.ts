import { type FlowOutcome, PindroError, type StartedRun } from '@pindro/core';

export interface PlaceLimits {
  /** How many may be under way. */
  atOnce: number;
  /** How many may wait for their turn. */
  queue: number;
}

interface Waiting {
  begin(): void;
}

/** Of the queue one caller may take so much. */
const SHARE = 0.25;
/** When whoever is turned away should come back, in seconds. */
const COME_BACK = 5;

/**
 * Places for work under way, a run with all that it calls taking one. Who finds none free waits; callers take turns, so
 * that one with a thousand calls does not hold up one with a single call.
 */
export class Places {
  #taken = 0;
  #queued = 0;
  /** Who waits, by caller; the caller whose turn is next stands first. */
  readonly #queues = new Map<string, Waiting[]>();

  constructor(private readonly limits: PlaceLimits) {}

  get state(): { underWay: number; queued: number } {
    return { underWay: this.#taken, queued: this.#queued };
  }

  /**
   * Begins work now, or when it is its turn. Work that was given up meanwhile begins at once, to record just that.
   * @returns with `leave`, which gives the place to the next and may be called more than once
   * @throws workspace_busy
   */
  start(caller: string, start: () => StartedRun, signal: AbortSignal): StartedRun & { leave(): void } {
    if (this.#taken < this.limits.atOnce) {
      this.#taken++;
      return { ...start(), leave: this.#leaver() };
    }
    const queue = this.#queues.get(caller) ?? [];
    const share = Math.max(1, Math.ceil(this.limits.queue * SHARE));
    if (this.#queued >= this.limits.queue || queue.length >= share)
      throw new PindroError('workspace_busy', { limit: this.limits.atOnce, queued: this.#queued, seconds: COME_BACK });
    let leave = () => {};
    const begun = new Promise<StartedRun>((resolve) => {
      const waiting: Waiting = {
        begin: () => {
          signal.removeEventListener('abort', giveUp);
          this.#taken++;
          leave = this.#leaver();
          resolve(start());
        },
      };
      const giveUp = () => {
        this.#remove(caller, waiting);
        resolve(start());
      };
      signal.addEventListener('abort', giveUp, { once: true });
      queue.push(waiting);
      this.#queues.set(caller, queue);
      this.#queued++;
    });
    const then = (which: (run: StartedRun) => Promise<FlowOutcome>) => begun.then(which);
    return { answered: then((run) => run.answered), ended: then((run) => run.ended), leave: () => leave() };
  }

  #leaver(): () => void {
    let left = false;
    return () => {
      if (left) return;
      left = true;
      this.#taken--;
      this.#next();
    };
  }

  #next(): void {
    const [turn] = this.#queues;
    if (!turn || this.#taken >= this.limits.atOnce) return;
    const [caller, queue] = turn;
    const waiting = queue.shift()!;
    this.#queued--;
    // To the end of the line, for another turn.
    this.#queues.delete(caller);
    if (queue.length > 0) this.#queues.set(caller, queue);
    waiting.begin();
  }

  #remove(caller: string, waiting: Waiting): void {
    const queue = this.#queues.get(caller);
    const at = queue?.indexOf(waiting) ?? -1;
    if (!queue || at < 0) return;
    queue.splice(at, 1);
    this.#queued--;
    if (queue.length === 0) this.#queues.delete(caller);
  }
}
