import { type ProblemDetails, ProblemError, type RecognizedServerSummary, type TestPart } from '@pindro/contract/light';
import { api, problemOf } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

const WAIT = 350;

/** What somebody has of tool servers, as a text, and what was understood of it. */
export class Pasted {
  text = $state('');
  items = $state.raw<RecognizedServerSummary[]>([]);
  problem = $state.raw<ProblemDetails | null>(null);
  busy = $state(false);
  /** Values that somebody says are secrets, or are none, by their names. */
  #chosen = $state.raw<Record<string, boolean>>({});

  /** Must be made while a component is set up. */
  constructor() {
    $effect(() => this.#look(this.text, this.#chosen));
  }

  choose(name: string, secret: boolean): void {
    this.#chosen = { ...this.#chosen, [name]: secret };
  }

  /** The text, and what somebody says of values in it. */
  get source(): { text: string; plain: string[]; encrypt: string[] } {
    const named = (secret: boolean) => Object.keys(this.#chosen).filter((name) => this.#chosen[name] === secret);
    return { text: this.text, plain: named(false), encrypt: named(true) };
  }

  async take(files: readonly File[]): Promise<void> {
    const [file] = files;
    if (file) this.text = await file.text();
  }

  #look(text: string, chosen: Record<string, boolean>): (() => void) | undefined {
    this.problem = null;
    if (text.trim() === '') {
      this.items = [];
      return undefined;
    }
    this.busy = true;
    const timer = setTimeout(async () => {
      try {
        const { items } = await api.recognizeServers({ body: this.source });
        if (text === this.text && chosen === this.#chosen) this.items = items;
      } catch (error) {
        if (text === this.text) [this.items, this.problem] = [[], problemOf(error)];
      }
      this.busy = false;
    }, WAIT);
    return () => clearTimeout(timer);
  }
}

/** All values that are sent to a server or passed to its program. */
export const allOf = ({ headers, query, args, env }: RecognizedServerSummary) => [
  ...headers,
  ...query,
  ...args,
  ...env,
];

/** One server that was understood, on its way to being attached. */
export class Attaching {
  name = $state('');
  values = $state<Record<string, string>>({});
  secret = $state('');
  /** Whether it refused to work without a key: only then is it asked for one. */
  wantsKey = $state(false);
  /** How its test goes, part by part. */
  parts = $state.raw<TestPart[]>([]);
  /** Tests and keeps it. @param force keeps it although it does not answer */
  readonly attach: Action<[force?: boolean], { name: string }>;

  constructor(
    readonly server: RecognizedServerSummary,
    private readonly source: () => { text: string; plain: string[]; encrypt: string[] },
    onMade: (name: string) => void,
  ) {
    this.name = server.name;
    this.attach = new Action(async (force = false) => {
      const { name, values, secret } = this;
      const body = {
        ...this.source(),
        at: server.at,
        name,
        values: { ...values },
        ...(secret && { secret }),
        skipTest: force,
      };
      const made = await this.#watch(body).catch((error: unknown) => {
        throw this.#told(error);
      });
      onMade(made.name);
      return made;
    });
  }

  #leaving = new AbortController();
  /** The result is discarded because nobody waits for it. */
  leave(): void {
    this.#leaving.abort();
  }

  /** Attaches it, and shows the test as it happens. */
  async #watch(body: Parameters<typeof api.attachWithProgress>[0]['body']): Promise<{ name: string }> {
    this.parts = [];
    this.#leaving = new AbortController();
    for await (const event of api.attachWithProgress({ body, signal: this.#leaving.signal })) {
      if (event.type === 'attached') return event.server;
      if (event.type === 'failed') throw new ProblemError(event.problem);
      const { type: _, ...part } = event;
      this.parts = [...this.parts.filter((one) => one.part !== part.part), part];
    }
    throw new Error('The service closed the stream during the test. Check the result in the list of servers.');
  }

  get missing(): string[] {
    return allOf(this.server)
      .filter((one) => one.missing)
      .map((one) => one.name);
  }
  get isReady(): boolean {
    return this.name !== '' && this.missing.every((name) => this.values[name]);
  }

  /** A server that wants a key is no failure before it was asked for one. */
  #told(error: unknown): unknown {
    const problem = problemOf(error);
    if (problem.code !== 'server_wants_key') return error;
    const isFirst = !this.wantsKey && this.secret === '' && this.missing.length === 0;
    this.wantsKey = true;
    const asked = { detail: 'The server requires a key', hint: 'Enter its bearer key and retry.' };
    return isFirst ? new ProblemError({ ...problem, ...asked }) : error;
  }
}
