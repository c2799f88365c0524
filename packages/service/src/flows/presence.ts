/** Who does not say it again within so many milliseconds is gone. */
const GONE_AFTER = 12_000;
/** Beyond so many open pages of one flow the oldest are forgotten. */
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
    // Who looked at many flows leaves no trace at those nobody has open any more.
    for (const [other, those] of this.#flows)
      if ([...those.values()].every(({ at }) => now - at > GONE_AFTER)) this.#flows.delete(other);
    return [...new Set([...pages].filter(([id]) => id !== page).map(([, one]) => one.name))];
  }
}
