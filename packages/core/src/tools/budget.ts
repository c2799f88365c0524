/** What may still be spent by an agent and by all it hands work to. What is spent below is spent above as well. */
export class Budget {
  constructor(
    private tokensLeft: number,
    private moneyLeft: number,
    private readonly above: Budget | null = null,
  ) {}

  /** In tokens, read and written. */
  get tokens(): number {
    return Math.min(this.tokensLeft, this.above?.tokens ?? Number.POSITIVE_INFINITY);
  }
  get money(): number {
    return Math.min(this.moneyLeft, this.above?.money ?? Number.POSITIVE_INFINITY);
  }

  spend(tokens: number, money: number): void {
    this.tokensLeft -= tokens;
    this.moneyLeft -= money;
    this.above?.spend(tokens, money);
  }

  /** Somebody lets it go on. */
  extend(tokens: number, money: number): void {
    this.tokensLeft += tokens;
    this.moneyLeft += money;
  }
}
