import type { Happening } from '@pindro/contract';
import type { Bus } from '../../platform/events.js';

/** So much is kept for each endpoint. */
const KEPT = 50;
/** Whoever watches is told at most this often, in milliseconds. */
const TELL_EVERY = 250;

/** What happened lately on each endpoint, for the line that waits for the first client. */
export class Diary {
  readonly #pages = new Map<string, Happening[]>();
  readonly #soon = new Map<string, NodeJS.Timeout>();

  constructor(private readonly bus: Bus) {}

  note(endpoint: string, what: Omit<Happening, 'at'>): void {
    const page = this.#pages.get(endpoint) ?? [];
    page.push({ at: new Date().toISOString(), ...what });
    if (page.length > KEPT) page.shift();
    this.#pages.set(endpoint, page);
    if (this.#soon.has(endpoint)) return;
    const tell = () => {
      this.#soon.delete(endpoint);
      this.bus.changed('client', endpoint);
    };
    this.#soon.set(endpoint, setTimeout(tell, TELL_EVERY).unref());
  }

  /** The newest first. */
  of(endpoint: string): Happening[] {
    return (this.#pages.get(endpoint) ?? []).toReversed();
  }
}
