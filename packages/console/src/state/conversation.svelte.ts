import type { Outcome, ProblemDetails, RunDetail, RunSummary } from '@pindro/contract/light';
import { attribute, type LiveEvent } from '@pindro/core/browser';
import { type MadeThing, madeThings } from '../parts/made.js';
import { api, problemOf } from './api.js';

export interface CallCard {
  id: string;
  tool: string;
  from: string;
  arguments: unknown;
  state: 'running' | 'done' | 'failed';
  result: string;
  run: string | null;
  /** What the call left behind, each with where to see it. */
  made: MadeThing[];
}
export interface Exchange {
  message: string;
  calls: CallCard[];
  answer: string;
  outcome: Outcome | null;
  problem: ProblemDetails | null;
}

const NAMES = 'pindro-chat-';

/** One conversation with an agent flow: what was said, which tools were called, and how each turn ended. */
export class Conversation {
  exchanges = $state<Exchange[]>([]);
  busy = $state(false);
  session: string;

  constructor(
    readonly flow: string,
    private readonly stage: () => 'draft' | 'live',
  ) {
    this.session = sessionStorage.getItem(NAMES + flow) ?? crypto.randomUUID();
    sessionStorage.setItem(NAMES + flow, this.session);
    void this.#recall();
  }

  /** Begins anew: the agent forgets, because its memory goes by the session. */
  restart(): void {
    this.session = crypto.randomUUID();
    sessionStorage.setItem(NAMES + this.flow, this.session);
    this.exchanges = [];
  }

  async send(message: string): Promise<void> {
    this.exchanges.push({ message, calls: [], answer: '', outcome: null, problem: null });
    const exchange = this.exchanges.at(-1)!;
    this.busy = true;
    try {
      const stream = api.watchFlow({
        name: this.flow,
        body: { input: { message }, session: this.session, stage: this.stage(), entry: 'chat' },
      });
      for await (const event of stream) {
        if (event.type === 'live') this.#take(exchange, event.live as unknown as LiveEvent);
        if (event.type === 'outcome') await this.#end(exchange, event.outcome);
      }
    } catch (error) {
      exchange.problem = problemOf(error);
    } finally {
      this.busy = false;
    }
  }

  #take(exchange: Exchange, live: LiveEvent): void {
    if (live.kind === 'text') exchange.answer += live.text;
    if (live.kind === 'call')
      exchange.calls.push({
        id: live.id,
        tool: live.tool,
        from: live.label,
        arguments: live.arguments,
        state: 'running',
        result: '',
        run: null,
        made: [],
      });
    if (live.kind === 'called') {
      const card = exchange.calls.findLast((call) => call.id === live.id);
      if (card) Object.assign(card, { state: live.failed ? 'failed' : 'done', result: live.text, run: live.run });
    }
  }

  async #end(exchange: Exchange, outcome: Outcome): Promise<void> {
    exchange.outcome = outcome;
    if (typeof outcome.result === 'string') exchange.answer = outcome.result;
    if (outcome.error)
      exchange.problem = {
        type: '',
        status: 0,
        code: outcome.error.code,
        title: outcome.error.message,
        hint: outcome.error.hint,
      };
    await this.#tellMade(exchange, outcome.run);
  }

  /** Finds out from the run what each call left behind. */
  async #tellMade(exchange: Exchange, run: string): Promise<void> {
    const { spans } = await api.getRun({ id: run });
    const tools = spans.filter((span) => span.work === 'tool' && span.run === run);
    for (const call of exchange.calls) {
      const own = tools.findIndex(
        (span) => span.attributes[attribute.tool] === call.tool && sameJson(span.input, call.arguments),
      );
      if (own >= 0) call.made = madeIn(spans, tools.splice(own, 1)[0]!);
    }
  }

  /** What was said before the page was loaded again, told from the runs. */
  async #recall(): Promise<void> {
    try {
      const { items } = await api.listRuns({
        query: { flow: this.flow, session: this.session, roots: 'true', limit: 30 },
      });
      const earlier = await Promise.all(items.toReversed().map((run) => this.#exchangeOf(run)));
      this.exchanges = [...earlier, ...this.exchanges];
    } catch {
      // an empty page is a fine beginning
    }
  }

  async #exchangeOf(run: RunSummary): Promise<Exchange> {
    const detail = await api.getRun({ id: run.id });
    const calls = detail.spans
      .filter((span) => span.work === 'tool' && span.run === run.id)
      .map(
        (span): CallCard => ({
          id: span.spanId,
          tool: String(span.attributes[attribute.tool]),
          from: String(span.attributes[attribute.server] ?? `flow ${span.attributes[attribute.flow] ?? ''}`),
          arguments: span.input,
          state: span.status === 'error' ? 'failed' : 'done',
          result: span.error?.message ?? JSON.stringify(span.output ?? ''),
          run: (span.attributes[attribute.childRun] as string) ?? null,
          made: madeIn(detail.spans, span),
        }),
      );
    const message = (detail.input as { message?: string }).message ?? '';
    const outcome: Outcome = {
      run: run.id,
      url: detail.url,
      state: detail.state,
      result: detail.result,
      error: detail.error,
      waitsFor: null,
    };
    const problem = detail.error && {
      type: '',
      status: 0,
      code: detail.error.code,
      title: detail.error.message,
      hint: detail.error.hint,
    };
    return { message, calls, answer: typeof detail.result === 'string' ? detail.result : '', outcome, problem };
  }
}

const sameJson = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** What one tool call left behind: its own, and that of the run it began. */
function madeIn(spans: RunDetail['spans'], tool: RunDetail['spans'][number]): MadeThing[] {
  const child = tool.attributes[attribute.childRun];
  return madeThings(child ? spans.filter((span) => span.run === child) : [tool]);
}
