import type { ProblemSummary } from '@pindro/contract';
import { type FetchPort, type MailPort, PindroError, type Receipt, receiptWords } from '@pindro/core';

/** Interval for combining notifications, in milliseconds: one failure often causes many. */
const GATHER = 2000;
/** Maximum number of problems in one notification; the rest is a count. */
const MOST = 20;
const WITHIN = 15_000;

/** Sends notifications about new and recurring problems. */
export class ProblemNotice {
  #waiting: ProblemSummary[] = [];
  #timer: NodeJS.Timeout | null = null;

  /**
   * @param to `mailto:ADDRESS`, or the address of a webhook, which receives JSON
   * @param around address of a problem, and the receipt of the last run with it
   */
  constructor(
    private readonly to: string,
    private readonly ports: { fetch: FetchPort; mail: MailPort },
    private readonly around: (problem: ProblemSummary) => { url: string; receipt: Receipt | null },
    private readonly failed: (error: unknown) => void,
  ) {}

  tell(problem: ProblemSummary): void {
    this.#waiting.push(problem);
    this.#timer ??= setTimeout(() => void this.send().catch(this.failed), GATHER).unref();
  }

  /** Sends what waits. @throws what the mail server or the hook says */
  async send(): Promise<void> {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    const all = this.#waiting.splice(0);
    if (all.length === 0) return;
    const signal = AbortSignal.timeout(WITHIN);
    const told = all.slice(0, MOST).map((one) => ({ ...one, ...this.around(one) }));
    const more = all.length - told.length;
    if (this.to.startsWith('mailto:')) {
      const lines = told.map(({ url, receipt, ...one }) => {
        const words = receipt ? receiptWords(receipt) : '';
        return [wordsOf(one), `in ${one.flow}: ${one.title}`, ...(words ? [words] : []), url].join('\n');
      });
      const text = [...lines, ...(more > 0 ? [`and ${more} more`] : [])].join('\n\n');
      const subject = told.length === 1 ? `${wordsOf(told[0]!)} in ${told[0]!.flow}` : `${all.length} problems`;
      const to = [decodeURIComponent(this.to.slice('mailto:'.length))];
      await this.ports.mail.send({ from: null, to, cc: [], subject, text, html: null }, { signal });
      return;
    }
    const body = JSON.stringify({ problems: told, more });
    const headers = { 'content-type': 'application/json' };
    const request = { method: 'POST', url: this.to, headers, body, maxBytes: 64 * 1024 };
    const { status } = await this.ports.fetch(request, { signal });
    if (status >= 400) throw new PindroError('http_status', { address: new URL(this.to).origin, status });
  }
}

const wordsOf = ({ state }: Pick<ProblemSummary, 'state'>) =>
  state === 'recurring' ? 'A recurring problem' : 'A new problem';
