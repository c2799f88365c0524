import {
  type JournalEntry,
  type Json,
  PindroError,
  type RunHead,
  type RunState,
  type Span,
  type TraceEvent,
} from '@pindro/core';
import { eq, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { journal, runs, spans } from './tables.js';

type EndedEntry = Extract<JournalEntry, { type: 'ended' }>;
interface Begun {
  head: RunHead;
  sealed: Json | undefined;
  ended: EndedEntry | null;
}

/** A run that goes on longer than this is written while it runs, so that others see it and a crash leaves a mark. */
const WRITE_AFTER = 25;

/**
 * Writes journals and spans in groups: everything that is waiting goes into one transaction, so that many runs share
 * the cost of one commit. A short run is written once.
 */
export class RunWriter {
  #entries: JournalEntry[] = [];
  #spans: Span[] = [];
  #begun = new Map<string, Begun>();
  #waiting: { resolve: () => void; reject: (error: unknown) => void }[] = [];
  #soon: NodeJS.Immediate | null = null;
  #later: NodeJS.Timeout | null = null;
  readonly #statements;

  constructor(
    private readonly database: Database,
    private readonly seal: (value: Json) => string,
  ) {
    const p = sql.placeholder;
    this.#statements = {
      run: database
        .insert(runs)
        .values({
          id: p('id'),
          traceId: p('traceId'),
          parentSpan: p('parentSpan'),
          parentRun: p('parentRun'),
          flow: p('flow'),
          revision: p('revision'),
          stage: p('stage'),
          entry: p('entry'),
          caller: p('caller'),
          attributes: p('attributes'),
          session: p('session'),
          input: p('input'),
          sealed: p('sealed'),
          state: p('state'),
          startedAt: p('startedAt'),
          endedAt: p('endedAt'),
          result: p('result'),
          error: p('error'),
        })
        .prepare(),
      entry: database
        .insert(journal)
        .values({ run: p('run'), sequence: p('sequence'), at: p('at'), type: p('type'), body: p('body') })
        .prepare(),
      span: database
        .insert(spans)
        .values({ spanId: p('spanId'), run: p('run'), start: p('start'), body: p('body') })
        .prepare(),
    };
  }

  emit(event: Exclude<TraceEvent, { type: 'live' }>): void {
    if (event.type === 'span') this.#spans.push(event.span);
    else {
      const { entry } = event;
      if (entry.type === 'started') this.#begun.set(entry.run, { head: entry.head, sealed: entry.sealed, ended: null });
      this.#entries.push(entry);
    }
    this.#later ??= setTimeout(() => this.#flushQuietly(), WRITE_AFTER);
  }

  /** Resolves when everything emitted so far is on disk. @throws storage_failed */
  commit(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.#waiting.push({ resolve, reject });
      this.#soon ??= setImmediate(() => this.#flushQuietly());
    });
  }

  /** Writes what is waiting, at once. */
  flush(): void {
    if (this.#soon) clearImmediate(this.#soon);
    if (this.#later) clearTimeout(this.#later);
    this.#soon = this.#later = null;
    const [entries, spanList, begun] = [this.#entries, this.#spans, this.#begun];
    [this.#entries, this.#spans, this.#begun] = [[], [], new Map()];
    if (entries.length === 0 && spanList.length === 0) return;
    this.database.door
      .transaction(() => {
        for (const entry of entries) this.#writeEntry(entry, begun);
        for (const { head, sealed, ended } of begun.values()) this.#insertRun(head, sealed, ended);
        for (const span of spanList)
          this.#statements.span.run({
            spanId: span.spanId,
            run: span.run,
            start: Math.round(span.start),
            body: JSON.stringify(span),
          });
      })
      .immediate();
  }

  #flushQuietly(): void {
    const waiting = this.#waiting;
    this.#waiting = [];
    try {
      this.flush();
      for (const { resolve } of waiting) resolve();
    } catch (error) {
      const failed = new PindroError('storage_failed', { why: (error as Error).message }, { cause: error });
      for (const { reject } of waiting) reject(failed);
    }
  }

  #writeEntry(entry: JournalEntry, begun: Map<string, Begun>): void {
    const { run, sequence, at, type, ...body } = entry;
    // The head stands in the run's own row; keeping it twice would double what a short call costs.
    const kept = type === 'started' ? {} : body;
    this.#statements.entry.run({ run, sequence, at, type, body: JSON.stringify(kept) });
    if (entry.type !== 'ended') return;
    const fresh = begun.get(run);
    if (fresh) fresh.ended = entry;
    else {
      this.database
        .update(runs)
        .set({
          state: entry.state,
          endedAt: entry.at,
          result: JSON.stringify(entry.result),
          error: entry.error ? JSON.stringify(entry.error) : null,
        })
        .where(eq(runs.id, run))
        .run();
    }
  }

  #insertRun(head: RunHead, sealed: Json | undefined, ended: EndedEntry | null): void {
    const state: RunState = ended?.state ?? 'running';
    this.#statements.run.run({
      ...head,
      caller: head.caller.id,
      attributes: JSON.stringify(head.caller.attributes),
      input: JSON.stringify(head.input),
      sealed: sealed === undefined ? null : this.seal(sealed),
      state,
      endedAt: ended?.at ?? null,
      result: ended ? JSON.stringify(ended.result) : null,
      error: ended?.error ? JSON.stringify(ended.error) : null,
    });
  }
}
