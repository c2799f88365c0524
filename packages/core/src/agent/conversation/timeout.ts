/** Counts the time that work takes, without the time in which it waits for somebody. */
export class Patience {
  readonly #stop = new AbortController();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #left: number;
  #since = 0;
  #waiting = 0;

  constructor(limit: number) {
    this.#left = limit;
    this.#start();
  }

  /** Aborted once the time is used up. */
  get signal(): AbortSignal {
    return this.#stop.signal;
  }

  /** Time does not count until the work is done, which is waiting. */
  async pause<T>(work: Promise<T>): Promise<T> {
    if (this.#waiting++ === 0) {
      clearTimeout(this.#timer);
      this.#left -= performance.now() - this.#since;
    }
    try {
      return await work;
    } finally {
      if (--this.#waiting === 0) this.#start();
    }
  }

  /** As much time again. */
  extend(more: number): void {
    clearTimeout(this.#timer);
    this.#left += more - (performance.now() - this.#since);
    this.#start();
  }

  end(): void {
    clearTimeout(this.#timer);
    this.#left = Number.POSITIVE_INFINITY;
  }

  #start(): void {
    this.#since = performance.now();
    if (!Number.isFinite(this.#left) || this.#stop.signal.aborted) return;
    this.#timer = setTimeout(() => this.#stop.abort(), Math.min(Math.max(0, this.#left), 2 ** 31 - 1));
  }
}
