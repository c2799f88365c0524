import type { RunSummary } from '@pindro/contract/light';
import { api, problemOf } from './api.js';

type Listener = (what: string, name: string) => void;
type RunListener = (run: RunSummary) => void;

/** Streams changes of the service while the page is open. Reconnects automatically. */
class Live {
  connected = $state(false);
  /** The session has ended, or there never was one. */
  signedOut = $state(false);
  /** Whether it was connected before, so that there may be work on the page. */
  begun = $state(false);
  #listeners = new Set<Listener>();
  #runs = new Set<RunListener>();
  #wait = 500;
  #following = false;

  start(): void {
    if (this.#following) return;
    this.signedOut = false;
    void this.#follow();
  }

  /** Calls back on every change, for as long as the effect that subscribed lives. */
  on(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
  /** Calls back for every run that starts or continues. */
  onRun(listener: RunListener): () => void {
    this.#runs.add(listener);
    return () => this.#runs.delete(listener);
  }

  async #follow(): Promise<void> {
    this.#following = true;
    for (;;) {
      try {
        for await (const event of this.#opened(api.events())) {
          if (event.type === 'changed') this.#tell(event.what, event.name);
          if (event.type === 'run') this.#tellRun(event.run as RunSummary);
        }
      } catch (error) {
        if (problemOf(error).status === 401) {
          this.signedOut = true;
          this.connected = false;
          this.#following = false;
          return;
        }
      }
      this.connected = false;
      await new Promise((resolve) => setTimeout(resolve, this.#wait));
      this.#wait = Math.min(this.#wait * 2, 8000);
      // Events during a disconnection were missed.
      this.#tell('everything', '');
    }
  }

  async *#opened<T>(stream: AsyncIterable<T>): AsyncIterable<T> {
    const iterator = stream[Symbol.asyncIterator]();
    const first = iterator.next();
    // A service that is there answers at once; what comes first may come much later.
    void api.whoAmI().then(
      () => {
        const again = this.begun;
        this.connected = true;
        this.begun = true;
        this.#wait = 500;
        if (again) this.#tell('everything', '');
      },
      () => {},
    );
    for (let event = await first; !event.done; event = await iterator.next()) yield event.value;
  }

  #tell(what: string, name: string): void {
    for (const listener of this.#listeners) listener(what, name);
  }
  #tellRun(run: RunSummary): void {
    this.#tell('run', run.id);
    for (const listener of this.#runs) listener(run);
  }
}

export const live = new Live();
