/** Time without a report after which a page is gone, in milliseconds. */
const GONE_AFTER = 12_000;
/** Maximum number of open pages per flow; the oldest are dropped. */
const MOST_PAGES = 100;

interface Page {
  name: string;
  at: number;
}

/** Who has which draft open now, as their pages say it. */
export class Presence {
  readonly #flows = new Map<string, Map<string, Page>>();

  constructor(private readonly now: () => number = Date.now) {}

  /** @returns the names of those with another page that has it open */
  here(flow: string, page: string, name: string): string[] {
    const pages = this.#flows.get(flow) ?? new Map<string, Page>();
    const now = this.now();
    for (const [id, { at }] of pages) if (now - at > GONE_AFTER || pages.size > MOST_PAGES) pages.delete(id);
    pages.delete(page);
    pages.set(page, { name, at: now });
    this.#flows.set(flow, pages);
    // Flows that nobody has open are dropped.
    for (const [other, those] of this.#flows)
      if ([...those.values()].every(({ at }) => now - at > GONE_AFTER)) this.#flows.delete(other);
    return [...new Set([...pages].filter(([id]) => id !== page).map(([, one]) => one.name))];
  }
}
