import type { ProblemDetails } from '@pindro/contract/light';
import { problemOf } from './api.js';
import { live } from './live.svelte.js';

/** Something of the service that a page shows: loaded when the page opens, and again when it changes. */
export class Resource<T> {
  value = $state.raw<T>();
  problem = $state.raw<ProblemDetails | null>(null);
  loading = $state(true);
  #turn = 0;

  /**
   * Create it during the setup of a component.
   * @param load loads the value; reactive values that it uses reload it
   * @param changes types of things whose changes reload it
   */
  constructor(
    private readonly load: () => Promise<T>,
    changes: string[] = [],
  ) {
    $effect(() => {
      void this.refresh();
    });
    $effect(() => {
      let timer: ReturnType<typeof setTimeout> | undefined;
      const off = live.on((what) => {
        if (what !== 'everything' && !changes.includes(what)) return;
        clearTimeout(timer);
        timer = setTimeout(() => void this.refresh(), 80);
      });
      return () => {
        clearTimeout(timer);
        off();
      };
    });
  }

  async refresh(): Promise<void> {
    const turn = ++this.#turn;
    try {
      const value = await this.load();
      if (turn !== this.#turn) return;
      this.value = value;
      this.problem = null;
    } catch (error) {
      if (turn === this.#turn) this.problem = problemOf(error);
    } finally {
      if (turn === this.#turn) this.loading = false;
    }
  }
}

/** An action of a button: whether it is running, and its result. */
export class Action<A extends unknown[], T> {
  busy = $state(false);
  problem = $state.raw<ProblemDetails | null>(null);
  result = $state.raw<T>();

  constructor(private readonly work: (...args: A) => Promise<T>) {}

  run = async (...args: A): Promise<T | undefined> => {
    this.busy = true;
    this.problem = null;
    try {
      this.result = await this.work(...args);
      return this.result;
    } catch (error) {
      this.problem = problemOf(error);
      return undefined;
    } finally {
      this.busy = false;
    }
  };
}
