/** Who waits for something, caller by caller: each in turn, so that one with a thousand does not hold up one with one. */
export class FairQueue {
  /** The caller whose turn is next stands first. */
  readonly #lines = new Map<string, (() => void)[]>();
  #length = 0;

  get length(): number {
    return this.#length;
  }

  /** How many of a caller wait. */
  of(caller: string): number {
    return this.#lines.get(caller)?.length ?? 0;
  }

  /** Resolves when it is the caller's turn. Rejects with the signal's reason when that comes first. */
  turn(caller: string, signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const enter = () => {
        signal.removeEventListener('abort', leave);
        resolve();
      };
      const leave = () => {
        this.#remove(caller, enter);
        reject(signal.reason);
      };
      if (signal.aborted) return reject(signal.reason);
      signal.addEventListener('abort', leave, { once: true });
      const line = this.#lines.get(caller);
      if (line) line.push(enter);
      else this.#lines.set(caller, [enter]);
      this.#length++;
    });
  }

  /** Starts the next one. */
  next(): void {
    const [turn] = this.#lines;
    if (!turn) return;
    const [caller, line] = turn;
    const enter = line.shift()!;
    this.#length--;
    // To the end, for another turn.
    this.#lines.delete(caller);
    if (line.length > 0) this.#lines.set(caller, line);
    enter();
  }

  #remove(caller: string, enter: () => void): void {
    const line = this.#lines.get(caller);
    const at = line?.indexOf(enter) ?? -1;
    if (!line || at < 0) return;
    line.splice(at, 1);
    this.#length--;
    if (line.length === 0) this.#lines.delete(caller);
  }
}
