import type { RunSummary } from '@pindro/contract';
import { api, problemOf } from './api.js';

type Listener = (what: string, name: string) => void;

/** What changes in the service while the page is open. Connects again by itself. */
class Live {
  connected = $state(false);
  signedOut = $state(false);
  #listeners = new Set<Listener>();
  #wait = 500;

  start(): void {
    void this.#follow();
  }

  /** Calls back on every change, for as long as the effect that subscribed lives. */
  on(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  async #follow(): Promise<void> {
    for (;;) {
      try {
        const stream = api.events();
        for await (const event of this.#opened(stream)) {
          if (event.type === 'changed') this.#tell(event.what, event.name);
          if (event.type === 'run') this.#tell('run', (event.run as RunSummary).id);
        }
      } catch (error) {
        if (problemOf(error).status === 401) {
          this.signedOut = true;
          return;
        }
      }
      this.connected = false;
      await new Promise((resolve) => setTimeout(resolve, this.#wait));
      this.#wait = Math.min(this.#wait * 2, 8000);
      // Whatever happened meanwhile was missed.
      this.#tell('everything', '');
    }
  }

  async *#opened<T>(stream: AsyncIterable<T>): AsyncIterable<T> {
    this.connected = true;
    this.#wait = 500;
    yield* stream;
  }

  #tell(what: string, name: string): void {
    for (const listener of this.#listeners) listener(what, name);
  }
}

export const live = new Live();
