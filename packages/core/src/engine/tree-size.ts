import { PindroError } from '../errors/errors.js';

/** What one run may begin in all, directly and through what it calls. */
export const TREE_LIMITS = { deep: 10, runs: 1000, atOnce: 250 } as const;
/** A chain longer than this is shown by its beginning and end. */
const SHOWN = 6;

/** Counts the runs of a tree: a flow that begins flows without end is stopped before it fills the record. */
export class TreeSize {
  #begun = 0;
  #open = 0;

  /**
   * Counts a run that is to begin.
   * @param chain names of the flows that call one another, the one that is to begin last
   * @returns called once the run has ended @throws flow_too_deep, too_many_child_runs
   */
  enter(chain: readonly string[]): () => void {
    const { deep, runs, atOnce } = TREE_LIMITS;
    const shown = inShort(chain);
    const details = { chain: [...chain] };
    if (chain.length > deep + 1) throw new PindroError('flow_too_deep', { limit: deep, chain: shown }, { details });
    if (this.#begun >= runs) throw tooLarge(`${runs} runs`, shown, details);
    if (this.#open >= atOnce) throw tooLarge(`${atOnce} runs at once`, shown, details);
    this.#begun++;
    this.#open++;
    return () => void this.#open--;
  }
}

const tooLarge = (what: string, chain: string, details: { chain: string[] }) =>
  new PindroError('too_many_child_runs', { what, chain }, { details });

const inShort = (chain: readonly string[]) =>
  (chain.length > SHOWN ? [...chain.slice(0, 2), '…', ...chain.slice(-3)] : chain).join(' → ');
