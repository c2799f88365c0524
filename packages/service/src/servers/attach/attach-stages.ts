import type { TestPart } from '@pindro/contract';
import { asPindroError } from '@pindro/core';

type Part = TestPart['part'];

/** Tells how a server is tested, part by part as it happens: each begins, and then is done or has failed. */
export class PartByPart {
  #now: { part: Part; since: number } | null = null;
  readonly #done = new Set<Part>();

  /** @param gone aborted when nobody waits for it any more: then nothing is kept */
  constructor(
    private readonly tell: (part: TestPart) => void,
    readonly gone: AbortSignal,
  ) {}

  begin(part: Part): void {
    if (this.#now?.part === part || this.#done.has(part)) return;
    this.#now = { part, since: performance.now() };
    this.tell({ part, state: 'begun', says: '', took: null });
  }

  /** @param says what was found, in a few words */
  done(part: Part, says: string): void {
    if (this.#done.has(part)) return;
    this.begin(part);
    this.#end('done', says);
    this.#done.add(part);
  }

  /** The running stage failed: later ones are not tried. */
  failed(error: unknown): void {
    if (this.#now) this.#end('failed', asPindroError(error).message);
  }

  #end(state: 'done' | 'failed', says: string): void {
    const { part, since } = this.#now!;
    this.#now = null;
    this.tell({ part, state, says, took: Math.round(performance.now() - since) });
  }
}
