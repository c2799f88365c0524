/** Successful items of one loop whose trace is retained. The journal counts all of them. */
const SUCCESSES_PER_LOOP = 20;
/** Failed items of one loop whose trace is retained. */
const FAILURES_PER_LOOP = 100;
/** Failed items of all loops of a run whose trace is retained. */
const FAILURES_PER_RUN = 1000;

/** Decides which items of a run's loops keep their trace. */
export class RetainedItems {
  readonly #failed = new Map<string, number>();
  #allFailed = 0;

  /** Returns whether a successful item is retained. @param index zero-based position in its list */
  retainsSuccess(index: number): boolean {
    return index < SUCCESSES_PER_LOOP;
  }

  /** Counts a failed item and returns whether it is retained. @param loop path of the loop in the run */
  retainsFailure(loop: string): boolean {
    const failed = (this.#failed.get(loop) ?? 0) + 1;
    if (failed > FAILURES_PER_LOOP || this.#allFailed >= FAILURES_PER_RUN) return false;
    this.#failed.set(loop, failed);
    this.#allFailed++;
    return true;
  }
}
