import type { EndpointEvent } from '@pindro/contract';
import type { Bus } from '../../platform/events.js';

type Note = Omit<EndpointEvent, 'at'>;

/** So much is kept for each endpoint. */
const KEPT = 50;
/** Minimum interval between notifications of watchers, in milliseconds. */
const TELL_EVERY = 250;

/** Recent activity of each endpoint. */
export class EndpointLog {
  readonly #pages = new Map<string, { at: number; tell: () => Note }[]>();
  readonly #soon = new Map<string, NodeJS.Timeout>();

  constructor(private readonly bus: Bus) {}

  /** @param wording done once somebody looks, which nobody does for most calls */
  note(endpoint: string, wording: () => Note): void {
    const page = this.#pages.get(endpoint) ?? [];
    page.push({ at: Date.now(), tell: wording });
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
  of(endpoint: string): EndpointEvent[] {
    const page = this.#pages.get(endpoint) ?? [];
    return page.toReversed().map(({ at, tell }) => ({ at: new Date(at).toISOString(), ...tell() }));
  }
}
