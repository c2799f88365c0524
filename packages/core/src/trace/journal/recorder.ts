import { asPindroError } from '../../errors/errors.js';
import type { Json } from '../../json/json.js';
import { asJson } from '../../json/json.js';
import { type CapturedExchange, keptExchanges, type OnExchange } from '../exchanges/exchange.js';
import type { Masker } from '../secrets/masking.js';
import { attribute } from '../spans/attributes.js';
import type { LiveEvent, WatchPort } from '../spans/events.js';
import { boundPayload, type Span, type SpanWork } from '../spans/span.js';
import type { RunHead } from './head.js';
import { newSpanId } from './ids.js';
import type { JournalBody } from './journal.js';
import type { JournalStore } from './journal-store.js';

/** A span that has begun. */
export interface OpenSpan {
  readonly id: string;
  set(attributes: { [key: string]: Json }): void;
  /** Captures exchanges: stored if requested, or if the span fails. */
  readonly captureExchange: OnExchange;
  /** Takes down a line that was written while it worked. */
  say(line: ProgressLine): void;
  done(output?: Json, status?: Span['status']): void;
  fail(thrown: unknown, output?: Json): void;
}

/** A line of a log: of a tool server at a level of RFC 5424, or of a program's standard error. */
export interface ProgressLine {
  level: string;
  text: string;
}
/** Maximum number of lines of one span. */
const MOST_LINES = 100;

/** Maximum size of captured exchanges of a run, in characters. */
const MOST_KEPT = 16 * 1024 * 1024;

export interface SpanStart {
  input?: Json;
  attributes?: { [key: string]: Json };
  /** Set if a span resumes that started before a restart. */
  again?: { id: string; start: number } | undefined;
}

/** Where a recorder hands things to. */
export interface RecordPorts {
  record: JournalStore;
  watch: WatchPort;
}

/** Records one run: spans, journal and live events. Redacts everything it records. */
export class Recorder {
  #sequence: number;
  #uncommitted = false;
  #committed: Promise<void> = Promise.resolve();

  /**
   * @param sequence how many entries the journal of the run has already
   * @param room remaining size for captured exchanges of the run, in characters
   */
  constructor(
    readonly head: RunHead,
    readonly masker: Masker,
    private readonly ports: RecordPorts,
    sequence = 0,
    readonly room = { left: MOST_KEPT },
  ) {
    this.#sequence = sequence;
  }

  span(work: SpanWork, name: string, parent: string | null, start: SpanStart = {}): OpenSpan {
    const span: Span = {
      traceId: this.head.traceId,
      spanId: start.again?.id ?? newSpanId(),
      parentId: parent,
      run: this.head.id,
      work,
      name: this.masker.text(name),
      start: start.again?.start ?? Date.now(),
      end: null,
      status: 'running',
      attributes: { ...start.attributes },
    };
    if (start.input !== undefined) span.input = boundPayload(this.masker.json(start.input));
    let exchanges: CapturedExchange[] | null = null;
    let lines: { [key: string]: Json }[] | null = null;
    const end = (status: Span['status'], output?: Json) => {
      if (span.end !== null) return;
      span.end = Date.now();
      span.status = status;
      this.#storeExchanges(span, exchanges);
      if (lines) span.attributes[attribute.said] = lines;
      span.attributes = this.masker.json(span.attributes);
      if (output !== undefined) span.output = boundPayload(this.masker.json(output));
      this.emitSpan(span);
    };
    return {
      id: span.spanId,
      set: (attributes) => void Object.assign(span.attributes, attributes),
      captureExchange: (...one) => void (exchanges ??= []).push(one),
      say: ({ level, text }) => {
        lines ??= [];
        if (lines.length < MOST_LINES) lines.push({ after: Date.now() - span.start, level, text });
      },
      done: (output, status = 'ok') => end(status, output),
      fail: (thrown, output) => {
        const record = asPindroError(thrown).toRecord();
        span.error = this.masker.record(record);
        end('error', output);
      },
    };
  }

  #storeExchanges(span: Span, exchanges: readonly CapturedExchange[] | null): void {
    if (!exchanges || this.room.left <= 0) return;
    const kept = keptExchanges(exchanges, this.masker, this.head.exact === true || span.status === 'error');
    if (kept.length === 0) return;
    for (const { request, answer } of kept) this.room.left -= request.body.length + (answer?.body.length ?? 0);
    span.attributes[attribute.exchanges] = asJson(kept);
    span.attributes[attribute.exchanged] = kept.length;
  }

  protected emitSpan(span: Span): void {
    this.ports.record.append({ type: 'span', span });
  }

  journal(body: JournalBody): void {
    this.#uncommitted = true;
    if (body.type === 'started') {
      this.#append(this.#started(body));
      return;
    }
    const masked = this.masker.record(body);
    if (
      body.type === 'step_settled' &&
      masked !== body &&
      masked.type === 'step_settled' &&
      masked.output !== body.output
    )
      masked.sealed = { value: body.output, secrets: this.masker.secrets };
    if (body.type === 'agent_turn' && masked.type === 'agent_turn' && masked.turn !== body.turn)
      masked.sealed = { value: body.turn, secrets: this.masker.secrets };
    this.#append(masked);
  }

  /** Encrypted parts must stay complete, and the document belongs to the builder. */
  #started(body: Extract<JournalBody, { type: 'started' }>): JournalBody {
    return { ...body, head: this.masker.record(body.head) };
  }

  #append(body: JournalBody): void {
    const { id: run } = this.head;
    const entry = { run, sequence: this.#sequence++, at: Date.now(), ...body };
    this.ports.record.append({ type: 'journal', entry });
  }

  live(live: LiveEvent): void {
    this.ports.watch.show({
      run: this.head.id,
      trace: this.head.traceId,
      live: this.masker.record(live),
    });
  }

  /** Waits until the journal is on disk, also if a parallel step has requested that already. */
  async commit(): Promise<void> {
    if (this.#uncommitted) {
      this.#uncommitted = false;
      this.#committed = this.ports.record.commit(this.head.id).catch((error: unknown) => {
        // The store still has it; whoever commits next tries again.
        this.#uncommitted = true;
        throw error;
      });
    }
    await this.#committed;
  }
}

/**
 * Records one turn of a loop: its spans are buffered until it is known whether they are retained, so that successful
 * turns cost no more than a count.
 */
export class TurnRecorder extends Recorder {
  #spans: Span[] = [];

  /** @param journals whether what the turn does must be in the journal, because it cannot be done twice */
  constructor(
    private readonly outer: Recorder,
    ports: RecordPorts,
    private readonly journals: boolean,
  ) {
    super(outer.head, outer.masker, ports, 0, outer.room);
  }

  protected override emitSpan(span: Span): void {
    this.#spans.push(span);
  }

  override journal(body: JournalBody): void {
    if (this.journals) this.outer.journal(body);
  }

  override live(live: LiveEvent): void {
    if (live.kind !== 'step') this.outer.live(live);
  }

  override commit(): Promise<void> {
    return this.outer.commit();
  }

  keep(): void {
    for (const span of this.#spans) super.emitSpan(span);
    this.#spans = [];
  }
}
