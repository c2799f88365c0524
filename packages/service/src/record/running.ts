import { isRemarkable, type JournalEntry, type Receipt, type RunHead, type Span } from '@pindro/core';
import { RunSums } from './run-sums.js';

type EndedEntry = Extract<JournalEntry, { type: 'ended' }>;

/** What a run came to. */
export interface RunEnd {
  /** Whether its record shows anything that a diagnosis may speak of. */
  remarkable: boolean;
  /** Null after a restart. */
  sums: RunSums | null;
  at: number;
}

/** Runs that have begun and not ended: what they wait for, what they come to so far, and who began them. */
export class RunsUnderWay {
  readonly #runs = new Set<string>();
  /** Where in a run something is waited for. */
  readonly #parked = new Map<string, Set<string>>();
  /** Runs whose record shows something that a diagnosis may speak of, and those under which others began. */
  readonly #remarkable = new Set<string>();
  readonly #parents = new Map<string, string>();
  readonly #sums = new Map<string, RunSums>();

  get size(): number {
    return this.#runs.size;
  }

  [Symbol.iterator](): IterableIterator<string> {
    return this.#runs.values();
  }

  begin(head: RunHead): void {
    this.#runs.add(head.id);
    if (head.parentRun !== null) this.#parents.set(head.id, head.parentRun);
    this.#sums.set(head.id, new RunSums(head));
  }

  /** A run resumes after a restart: it receives the waiting steps. */
  takeUp(run: string, paths: readonly string[]): void {
    this.#runs.add(run);
    this.#sums.set(run, new RunSums());
    if (paths.length > 0) this.#parked.set(run, new Set(paths));
  }

  /** What a span says of its run, and of those that began it. */
  notice(span: Span): void {
    if (isRemarkable(span)) this.#remarkable.add(span.run);
    for (let run: string | undefined = span.run; run !== undefined; run = this.#parents.get(run))
      this.#sums.get(run)?.take(span);
  }

  sumsOf(run: string): RunSums | undefined {
    return this.#sums.get(run);
  }

  /** What a run comes to that ends. What is remarkable in it is so in the one that began it. */
  endOf(run: string, { state, receipt, at }: EndedEntry): RunEnd {
    const { contradicts = null, end = 'answer' } = (receipt ?? {}) as Partial<Receipt>;
    const isBad = state === 'failed' || state === 'interrupted';
    const remarkable = this.#remarkable.has(run) || isBad || contradicts !== null || end !== 'answer';
    const parent = this.#parents.get(run);
    if (remarkable && parent !== undefined && this.#runs.has(parent)) this.#remarkable.add(parent);
    return { remarkable, sums: this.#sums.get(run) ?? null, at };
  }

  forget(run: string): void {
    this.#runs.delete(run);
    this.#parked.delete(run);
    this.#remarkable.delete(run);
    this.#parents.delete(run);
    this.#sums.delete(run);
  }

  /** Whether a run waits for somebody or a time. */
  waits(run: string): boolean {
    return this.#parked.has(run);
  }

  park(run: string, path: string): void {
    const paths = this.#parked.get(run) ?? new Set();
    this.#parked.set(run, paths.add(path));
  }

  /** What waited at the step, or below it, waits no longer. @returns whether the run waits for nothing any more */
  settle(run: string, path: string): boolean {
    let goesOn = false;
    for (const waiting of this.#parked.get(run) ?? [])
      if (waiting === path || waiting.startsWith(`${path}/`)) goesOn = this.unpark(run, waiting) || goesOn;
    return goesOn;
  }

  /** A run waits until every step of it that waits has settled. @returns whether it waits for nothing any more */
  unpark(run: string, path: string): boolean {
    const paths = this.#parked.get(run);
    if (!paths?.delete(path) || paths.size > 0) return false;
    this.#parked.delete(run);
    return true;
  }
}
