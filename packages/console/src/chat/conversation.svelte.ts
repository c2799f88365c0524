import type { Outcome, ProblemDetails, RunDetail, RunSummary } from '@pindro/contract/light';
import { attribute, type Span as CoreSpan, type LiveEvent, type MadeThing, madeThings } from '@pindro/core/browser';
import { api, problemOf } from '../state/api.js';
import { localProblem } from '../state/local-problem.js';
import { type CallLine, Exchange } from './exchange.svelte.js';

const KEPT = 'pindro-chat-';
const RECALLED = 30;

/** One conversation with an agent flow: what was said, which tools were called, and how each turn ended. */
export class Conversation {
  exchanges = $state.raw<Exchange[]>([]);
  busy = $state(false);
  session = $state('');
  /** The running request, also while another conversation is displayed. */
  #current: { exchange: Exchange; session: string; stopping: AbortController } | null = null;

  constructor(
    readonly flow: string,
    private readonly stage: () => 'draft' | 'live',
    session: string | null,
  ) {
    this.session = session ?? sessionStorage.getItem(KEPT + flow) ?? crypto.randomUUID();
    void this.open(this.session);
  }

  /** Continues an earlier conversation. */
  async open(session: string): Promise<void> {
    this.session = session;
    sessionStorage.setItem(KEPT + this.flow, session);
    this.exchanges = [];
    const earlier = await recall(this.flow, session).catch((): Exchange[] => []);
    // Whoever was quicker with a message loses none of it.
    if (session !== this.session) return;
    const current = this.#current?.session === session ? [this.#current.exchange] : [];
    const written = new Set(current.map((one) => one.run));
    const fresh = [...current, ...this.exchanges.filter((one) => !current.includes(one))];
    this.exchanges = [...earlier.filter((one) => !written.has(one.run)), ...fresh];
  }

  /** Starts a new session, so the agent has no memory of the previous one. */
  restart(): void {
    this.session = crypto.randomUUID();
    sessionStorage.setItem(KEPT + this.flow, this.session);
    this.exchanges = [];
  }

  async send(message: string): Promise<void> {
    const exchange = new Exchange(message);
    this.exchanges = [...this.exchanges, exchange];
    this.busy = true;
    const stopping = new AbortController();
    this.#current = { exchange, session: this.session, stopping };
    try {
      const stream = api.watchFlow({
        name: this.flow,
        body: { input: { message }, session: this.session, stage: this.stage(), entry: 'chat' },
        signal: stopping.signal,
      });
      for await (const event of stream) {
        if (event.type === 'live') exchange.take(event.run, event.live as unknown as LiveEvent);
        if (event.type === 'outcome') await end(exchange, event.outcome);
      }
    } catch (error) {
      exchange.problem = stopping.signal.aborted ? STOPPED : problemOf(error);
    } finally {
      this.#current = null;
      this.busy = false;
    }
  }

  /** Cancels the running run. */
  async stop(): Promise<void> {
    const current = this.#current;
    if (!current) return;
    const { run } = current.exchange;
    if (run) await api.cancelRun({ id: run }).catch(() => {});
    // A service that does not answer keeps nobody waiting.
    setTimeout(() => current.stopping.abort(), 1500);
  }

  /** Sends the last message once more. */
  again(): Promise<void> {
    const last = this.exchanges.at(-1);
    return last ? this.send(last.message) : Promise.resolve();
  }
}

const STOPPED = localProblem('Stopped by you', 'Completed steps are not undone.', { code: 'cancelled' });

function told(error: Outcome['error']): ProblemDetails | null {
  return error && localProblem(error.message, error.hint, { code: error.code });
}

/** An exchange that waited has ended: what came of it takes its place. */
export async function goOn(exchange: Exchange, run: RunDetail): Promise<void> {
  const ended = exchangeFrom(run);
  exchange.calls = ended.calls;
  exchange.answer = ended.answer;
  exchange.problem = ended.problem;
  exchange.outcome = ended.outcome;
}

async function end(exchange: Exchange, outcome: Outcome): Promise<void> {
  exchange.outcome = outcome;
  if (typeof outcome.result === 'string') exchange.answer = outcome.result;
  exchange.problem = told(outcome.error);
  const detail = await api.getRun({ id: outcome.run, query: { brief: 'true' } }).catch(() => null);
  if (!detail) return;
  // The record knows what each call left behind and how long it took.
  const tools = detail.spans.filter((span) => span.work === 'tool' && span.run === outcome.run);
  for (const call of exchange.all) {
    const own = tools.findIndex(
      (span) => span.attributes[attribute.tool] === call.tool && sameJson(span.input, call.arguments),
    );
    if (own < 0) continue;
    const span = tools.splice(own, 1)[0]!;
    call.made = madeIn(detail.spans, span);
    if (span.end !== null) call.took = span.end - span.start;
  }
}

/** What was said before the page was loaded, told from the runs. */
async function recall(flow: string, session: string): Promise<Exchange[]> {
  const { items } = await api.listRuns({ query: { flow, session, roots: 'true', limit: RECALLED } });
  return Promise.all(items.toReversed().map((run) => exchangeOf(run)));
}

const exchangeOf = async (run: RunSummary): Promise<Exchange> =>
  exchangeFrom(await api.getRun({ id: run.id, query: { brief: 'true' } }));

function exchangeFrom(detail: RunDetail): Exchange {
  const run = detail;
  const exchange = new Exchange((detail.input as { message?: string }).message ?? '');
  const spans = detail.spans
    .filter((span) => span.work === 'tool' && span.run === run.id)
    .sort((a, b) => a.start - b.start);
  for (const span of spans) {
    const line = lineOf(span, detail.spans);
    const beside = exchange.calls.at(-1);
    const overlaps = beside?.some((call) => call.begun + (call.took ?? 0) > span.start);
    if (beside && overlaps) beside.push(line);
    else exchange.calls.push([line]);
  }
  exchange.run = run.id;
  exchange.answer = typeof detail.result === 'string' ? detail.result : '';
  const { url, state, result, error, receipt, waits } = detail;
  exchange.outcome = { run: run.id, url, state, result, error, receipt, waitsFor: waits[0] ?? null };
  exchange.problem = told(error);
  return exchange;
}

type Span = RunDetail['spans'][number];

function lineOf(span: Span, all: Span[]): CallLine {
  return {
    id: span.spanId,
    tool: String(span.attributes[attribute.tool]),
    from: String(span.attributes[attribute.server] ?? `flow ${span.attributes[attribute.flow] ?? ''}`),
    arguments: span.input,
    state: span.status === 'error' ? 'failed' : 'done',
    result: span.error?.message ?? JSON.stringify(span.output ?? ''),
    run: (span.attributes[attribute.childRun] as string) ?? null,
    begun: span.start,
    took: span.end === null ? null : span.end - span.start,
    made: madeIn(all, span),
  };
}

const sameJson = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** What one tool call left behind: its own, and that of the run it began. */
function madeIn(spans: Span[], tool: Span): MadeThing[] {
  const child = tool.attributes[attribute.childRun];
  return madeThings((child ? spans.filter((span) => span.run === child) : [tool]) as CoreSpan[]);
}
