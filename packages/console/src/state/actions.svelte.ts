import { untrack } from 'svelte';

export interface Doable {
  title: string;
  run(): void;
}

/** What the search offers to do: things that hold everywhere, and those of the page that is open. */
class Actions {
  #groups = $state.raw<Doable[][]>([]);

  get list(): Doable[] {
    return this.#groups.toReversed().flat();
  }

  /** Offers something for as long as the effect lives in which it is called. */
  use(doable: Doable[]): () => void {
    untrack(() => {
      this.#groups = [...this.#groups, doable];
    });
    return () => {
      this.#groups = this.#groups.filter((one) => one !== doable);
    };
  }
}

export const actions = new Actions();
