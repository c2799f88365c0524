import type { RunStore } from './store.js';

/** Between two diagnoses others have their turn, in milliseconds. */
const REST = 5;

/** Diagnoses runs that did not go well soon after their end, so that what was found belongs to the record. */
export class Diagnoser {
  readonly #waiting = new Set<string>();
  #timer: NodeJS.Timeout | null = null;

  constructor(private readonly runs: RunStore) {}

  /** The record has the end of a run. */
  ended(run: string): void {
    this.#waiting.add(run);
    this.#timer ??= setTimeout(() => this.#next(), REST).unref();
  }

  #next(): void {
    this.#timer = null;
    const begun = performance.now();
    for (const id of this.#waiting) {
      this.#waiting.delete(id);
      try {
        this.runs.findings(this.runs.tree(id));
      } catch {
        // It is diagnosed when somebody looks at it.
      }
      if (performance.now() - begun > REST) break;
    }
    if (this.#waiting.size > 0) this.#timer = setTimeout(() => this.#next(), REST).unref();
  }
}
