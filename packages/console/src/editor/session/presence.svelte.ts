import { api } from '../../state/api.js';

const EVERY = 4000;

/** Who else has the same draft open, told to each other every few seconds. */
export class Presence {
  others = $state.raw<string[]>([]);
  /** Whether the reader has it open on another page too. */
  elsewhere = $state(false);
  readonly #page = crypto.randomUUID();

  /** Must be made while a component is set up. */
  constructor(private readonly flow: string) {
    $effect(() => {
      void this.#say();
      const timer = setInterval(() => void this.#say(), EVERY);
      return () => clearInterval(timer);
    });
  }

  async #say(): Promise<void> {
    if (document.visibilityState === 'hidden') return;
    const here = await api.reportPresence({ name: this.flow, body: { page: this.#page } }).catch(() => null);
    if (!here) return;
    this.others = here.others;
    this.elsewhere = here.elsewhere;
  }
}
