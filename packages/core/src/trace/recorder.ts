import { asPindroError } from '../errors.js';
import type { Json } from '../json.js';
import type { LiveEvent, RecordPort } from './events.js';
import { newSpanId } from './ids.js';
import type { JournalBody, RunHead } from './journal.js';
import type { Masker } from './masking.js';
import { boundPayload, type Span, type SpanWork } from './span.js';

/** A span that has begun. */
export interface OpenSpan {
  readonly id: string;
  set(attributes: { [key: string]: Json }): void;
  done(output?: Json, status?: Span['status']): void;
  fail(thrown: unknown, output?: Json): void;
}

/** Records one run: its spans, its journal, and what watchers see. All that passes is masked here. */
export class Recorder {
  #sequence = 0;
  #uncommitted = false;
  #committed: Promise<void> = Promise.resolve();

  constructor(
    readonly head: RunHead,
    readonly masker: Masker,
    private readonly port: RecordPort,
    private readonly now: () => number = Date.now,
  ) {}

  span(
    work: SpanWork,
    name: string,
    parent: string | null,
    start: { input?: Json; attributes?: { [key: string]: Json } } = {},
  ): OpenSpan {
    const span: Span = {
      traceId: this.head.traceId,
      spanId: newSpanId(),
      parentId: parent,
      run: this.head.id,
      work,
      name,
      start: this.now(),
      end: null,
      status: 'running',
      attributes: { ...start.attributes },
    };
    if (start.input !== undefined) span.input = boundPayload(this.masker.json(start.input));
    const end = (status: Span['status'], output?: Json) => {
      if (span.end !== null) return;
      span.end = this.now();
      span.status = status;
      span.attributes = this.masker.json(span.attributes);
      if (output !== undefined) span.output = boundPayload(this.masker.json(output));
      this.port.emit({ type: 'span', span });
    };
    return {
      id: span.spanId,
      set: (attributes) => void Object.assign(span.attributes, attributes),
      done: (output, status = 'ok') => end(status, output),
      fail: (thrown, output) => {
        const record = asPindroError(thrown).toRecord();
        span.error = this.masker.json(record as unknown as Json) as unknown as typeof record;
        end('error', output);
      },
    };
  }

  journal(body: JournalBody): void {
    this.#uncommitted = true;
    const masked = this.masker.json(body as unknown as Json) as unknown as JournalBody;
    // What is to be sealed must stay whole: masking it would lose what a later run needs.
    if (body.type === 'started' && masked.type === 'started' && body.sealed !== undefined) masked.sealed = body.sealed;
    this.port.emit({
      type: 'journal',
      entry: { run: this.head.id, sequence: this.#sequence++, at: this.now(), ...masked },
    });
  }

  live(live: LiveEvent): void {
    this.port.emit({
      type: 'live',
      run: this.head.id,
      trace: this.head.traceId,
      live: this.masker.json(live as unknown as Json) as unknown as LiveEvent,
    });
  }

  /** Waits until the journal so far is on disk, also when a step beside this one has asked for that already. */
  async commit(): Promise<void> {
    if (this.#uncommitted) {
      this.#uncommitted = false;
      this.#committed = this.port.commit();
    }
    await this.#committed;
  }
}
