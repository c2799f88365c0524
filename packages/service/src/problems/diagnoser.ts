import { diagnose, type Finding, needsOf, type Span } from '@pindro/core';
import type { RunRecord, RunStore } from '../record/reading/run-store.js';
import type { FactGatherer } from './facts.js';
import type { ProblemStore } from './store.js';

/** Between two diagnoses others have their turn, in milliseconds. */
const REST = 5;
/** Maximum queue length; further runs are diagnosed when they are viewed. */
const MOST_WAITING = 10_000;

/** Diagnoses runs that show anything soon after their end, so that what was found belongs to the record. */
export class Diagnoser {
  readonly #waiting = new Set<string>();
  readonly #underWay = new Map<string, Promise<Finding[]>>();
  #timer: NodeJS.Timeout | null = null;
  #closed = false;

  constructor(
    private readonly runs: RunStore,
    private readonly problems: ProblemStore,
    private readonly facts: FactGatherer,
  ) {}

  /** The end of a notable run is recorded. */
  ended(run: string): void {
    if (this.#closed || this.#waiting.size >= MOST_WAITING) return;
    this.#waiting.add(run);
    this.#soon();
  }

  /** What is found in a run and all it began: as it was kept, or now. */
  of(tree: readonly RunRecord[], spans?: Span[]): Promise<Finding[]> {
    const { id } = tree[0]!.head;
    const kept = this.runs.keptFindings(id);
    if (kept) return Promise.resolve(kept);
    if (!tree.every((run) => run.endedAt !== null)) return Promise.resolve(this.runs.findings(tree, spans));
    const before = this.#underWay.get(id);
    if (before) return before;
    const work = this.#diagnose(tree, spans).finally(() => this.#underWay.delete(id));
    this.#underWay.set(id, work);
    return work;
  }

  async #diagnose(tree: readonly RunRecord[], spans?: Span[]): Promise<Finding[]> {
    const { head } = tree[0]!;
    const trace = this.runs.trace(tree, spans);
    const facts = await this.facts.gather(needsOf(trace), head.caller.id);
    const found = diagnose(trace, facts);
    // It may have been deleted.
    if (this.#closed || !this.runs.find(head.id)) return found;
    this.runs.keepFindings(head.id, found);
    // What is only tried says nothing of how often it happens.
    if (head.parentRun === null && !head.trial) this.problems.seen(tree[0]!, found, trace.spans);
    return found;
  }

  #soon(): void {
    this.#timer ??= setTimeout(() => void this.#next(), REST).unref();
  }

  async #next(): Promise<void> {
    const [id] = this.#waiting;
    if (id !== undefined) {
      this.#waiting.delete(id);
      try {
        await this.of(this.runs.tree(id));
      } catch {
        // It is diagnosed when somebody looks at it.
      }
    }
    this.#timer = null;
    if (this.#waiting.size > 0 && !this.#closed) this.#soon();
  }

  close(): void {
    this.#closed = true;
    if (this.#timer) clearTimeout(this.#timer);
  }
}
