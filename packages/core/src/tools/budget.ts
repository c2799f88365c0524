import { type ErrorCode, PindroError } from '../errors/errors.js';

/** What can be spent: tokens read and written, money, calls of tools, and runs begun. */
export const SPENT = ['tokens', 'money', 'calls', 'runs'] as const;
export type Spent = (typeof SPENT)[number];
export type Spending = Partial<Record<Spent, number>>;

/** Message to the model when the budget is exhausted. */
const USED_UP = { calls: 'call_limit', runs: 'run_limit' } as const satisfies Partial<Record<Spent, ErrorCode>>;

/** What may still be spent by an agent and by all it hands work to. What is spent below is spent above as well. */
export class Budget {
  readonly spent: Record<Spent, number> = { tokens: 0, money: 0, calls: 0, runs: 0 };
  readonly #limits: Spending;

  /** @param limits what is not named has no limit here */
  constructor(
    limits: Spending,
    private readonly above: Budget | null = null,
  ) {
    this.#limits = { ...limits };
  }

  left(what: Spent): number {
    const here = (this.#limits[what] ?? Number.POSITIVE_INFINITY) - this.spent[what];
    return Math.min(here, this.above?.left(what) ?? Number.POSITIVE_INFINITY);
  }

  spend(spending: Spending): void {
    for (const what of SPENT) this.spent[what] += spending[what] ?? 0;
    this.above?.spend(spending);
  }

  /** Takes one of what is counted. @throws call_limit, run_limit */
  take(what: keyof typeof USED_UP): void {
    if (this.left(what) < 1)
      throw new PindroError(USED_UP[what], { limit: this.limitOf(what) }, { details: { limit: what } });
    this.spend({ [what]: 1 });
  }

  /** Somebody extends the limit. */
  extend(more: Spending): void {
    for (const what of SPENT) {
      const limit = this.#limits[what];
      if (limit !== undefined) this.#limits[what] = limit + (more[what] ?? 0);
    }
  }

  /** The limit that is reached: the own one, or one of those who began this. */
  private limitOf(what: Spent): number {
    const own = this.#limits[what];
    return own !== undefined && own <= this.spent[what] ? own : (this.above?.limitOf(what) ?? 0);
  }
}
