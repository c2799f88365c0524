import type { ServerLogLine } from '@pindro/contract';

/** Maximum number of lines per server; the oldest are dropped. */
const MOST = 1000;
const LONGEST = 2000;
/** Number of last lines that are searched for the reason of an exit. */
const LAST = 20;
const TELLING =
  /\b(?:error|exception|fatal|panic|cannot|can't|could not|failed|not found|no such|denied|missing|invalid|usage)\b|there is no/i;

/** Recent activity of one server: output, messages, and actions. */
export class ServerLog {
  readonly #lines: ServerLogLine[] = [];
  #next = 1;

  constructor(private readonly onLine: () => void = () => {}) {}

  /** @param text masked already */
  add(from: ServerLogLine['from'], text: string, level: ServerLogLine['level'] = 'info'): void {
    const cut = text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
    this.#lines.push({ id: this.#next++, at: new Date().toISOString(), from, level, text: cut });
    if (this.#lines.length > MOST) this.#lines.splice(0, this.#lines.length - MOST);
    this.onLine();
  }

  /** @param after only later lines than the one of this number */
  lines(after = 0): ServerLogLine[] {
    return this.#lines.filter(({ id }) => id > after);
  }

  /** The last words of a program, for whoever asks why it ended: the lines that tell most, or the last ones. */
  lastWords(count = 3): string[] {
    const last = this.#lines.filter(({ from }) => from === 'program').slice(-LAST);
    const telling = last.filter(({ text }) => TELLING.test(text));
    return (telling.length > 0 ? telling : last).slice(-count).map(({ text }) => text);
  }
}
