import {
  asJson,
  type JournalEntry,
  type JournalStore,
  type Json,
  PindroError,
  type RecordEvent,
  type RunHead,
  type RunState,
  type Span,
} from '@pindro/core';
import { eq, getTableColumns, inArray } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { readEntry } from './entry.js';
import { explainFailure } from './failure.js';
import { readHead, writeHead } from './head.js';
import { type Insert, inserter } from './insert.js';
import { hashesIn, hashOf, restoreRemoved, type Stored, takeOut } from './payloads.js';
import { type RunEnd, RunsUnderWay } from './running.js';
import { writeSpans } from './span-text.js';
import { documents, marks, pages, payloads, payloadUses, runs, spent } from './tables.js';

type EndedEntry = Extract<JournalEntry, { type: 'ended' }>;

/** What of one run waits to be written. */
interface Page {
  head: RunHead | null;
  sealed: Json | undefined;
  document: Json | undefined;
  ended: EndedEntry | null;
  /** Whether the run waits for somebody or a time, where that has changed. */
  state: 'running' | 'waiting' | null;
  entries: object[];
  spans: Span[];
}

interface Waiter {
  run: string;
  resolve(): void;
  reject(error: unknown): void;
}

/** Maximum time that a commit waits for others while runs are in progress, in milliseconds. */
const GATHER = 2;
/** Number of event loop turns that ready commits wait for more. */
const TURNS = 6;
/** A run longer than this is written while it runs, so that it is visible and a crash leaves a mark. */
const WRITE_AFTER = 25;
/** How often it is tried again while nothing can be written. */
const TRY_AGAIN = 250;
/** When a document was last used is noted this often, in milliseconds. */
const NOTE_USE_EVERY = 30 * 60_000;
/** Maximum number of pending spans while nothing can be written; further ones are dropped, journal entries never. */
const SPANS_HELD = 20_000;

export interface JournalOptions {
  /** Encrypts what must not be read on disk. */
  seal(value: Json): string;
  unseal(sealed: string): Json;
  /**
   * Told of a run once the record shows that it has begun, ended, or waits.
   * @param end what it came to, where it has ended
   */
  written?(run: string, ended: RunState | null, end: RunEnd | null): void;
  /** Told when the record cannot be written any more, and null once it can again. */
  trouble?(error: PindroError | null): void;
}

/**
 * Keeps journals and spans in SQLite, in groups: everything that is waiting goes into one transaction, so that many
 * runs share the cost of one commit. A group that fails is written run by run, so that only the bad one fails. A short
 * run is written once, as one row.
 */
export class SqliteJournal implements JournalStore {
  readonly #pages = new Map<string, Page>();
  #waiting: Waiter[] = [];
  /** Runs that have begun and not ended: those that may still want to join a commit. */
  readonly #underWay = new RunsUnderWay();
  readonly #frozen = new Set<string>();
  /** Runs whose beginning could not be written; there is nothing that the rest could belong to. */
  readonly #lost = new Set<string>();
  #soon: NodeJS.Immediate | null = null;
  #gather: NodeJS.Timeout | null = null;
  #later: NodeJS.Timeout | null = null;
  #trouble: PindroError | null = null;
  #spansHeld = 0;
  readonly #insertRun: Insert;
  readonly #insertPage: Insert;
  readonly #insertPayload: Insert;
  readonly #insertUse: Insert;
  readonly #insertMark: Insert;
  readonly #insertSpent: Insert;
  /** The hash of each document that is known to be stored. */
  readonly #documents = new WeakMap<object, { hash: string; usedAt: number }>();

  constructor(
    private readonly database: Database,
    private readonly options: JournalOptions,
  ) {
    this.#insertRun = inserter(database, runs, Object.keys(getTableColumns(runs)));
    this.#insertPage = inserter(database, pages, ['run', 'entries', 'spans']);
    this.#insertPayload = inserter(database, payloads, ['hash', 'body', 'bytes'], 'ignore');
    this.#insertUse = inserter(database, payloadUses, ['run', 'hash'], 'ignore');
    this.#insertSpent = inserter(database, spent, ['run', 'tokens', 'cost'], 'ignore');
    this.#insertMark = inserter(database, marks, ['mark', 'run'], 'ignore');
  }

  /** Why nothing can be written now, or null. */
  get trouble(): PindroError | null {
    return this.#trouble;
  }

  /** Whether a run waits for somebody or a time. */
  waits(run: string): boolean {
    return this.#underWay.waits(run);
  }

  /** The service stops: active runs are frozen for resuming. */
  freeze(): void {
    this.#flushQuietly();
    for (const run of this.#underWay) this.#frozen.add(run);
  }

  append(event: RecordEvent): void {
    const run = event.type === 'span' ? event.span.run : event.entry.run;
    if (this.#frozen.size > 0 && this.#frozen.has(run)) return;
    if (this.#lost.size > 0 && this.#lost.has(run)) {
      if (event.type === 'journal' && event.entry.type === 'ended') this.#lost.delete(run);
      return;
    }
    if (event.type === 'span') this.#underWay.notice(event.span);
    if (event.type === 'journal') this.#take(event.entry);
    else if (!this.#trouble || this.#spansHeld++ < SPANS_HELD) this.#pageOf(run).spans.push(event.span);
    if (!this.#trouble) this.#later ??= setTimeout(() => this.#flushQuietly(), WRITE_AFTER);
  }

  /**
   * While other runs are in progress a commit waits for them, so that one transaction serves many; if all are waiting,
   * it starts.
   */
  commit(run: string): Promise<void> {
    return new Promise((resolve, reject) => {
      if (this.#lost.has(run)) return reject(new PindroError('storage_failed', { why: 'its beginning was rejected' }));
      this.#waiting.push({ run, resolve, reject });
      if (this.#waiting.length >= this.#underWay.size) this.#gatherMore(0, TURNS);
      else this.#gather ??= setTimeout(() => this.#flushQuietly(), GATHER);
    });
  }

  /** Writes once a turn of the event loop has brought nothing more to write. */
  #gatherMore(seen: number, turns: number): void {
    this.#soon ??= setImmediate(() => {
      this.#soon = null;
      if (turns > 0 && this.#waiting.length > seen) this.#gatherMore(this.#waiting.length, turns - 1);
      else this.#flushQuietly();
    });
  }

  async read(run: string): Promise<JournalEntry[]> {
    this.#flushQuietly();
    return this.entries(run, true);
  }

  /** The journal of a run on disk. @param whole with its head, document and decrypted parts */
  entries(run: string, whole = false): JournalEntry[] {
    const row = this.database.select().from(runs).where(eq(runs.id, run)).get();
    if (!row) return [];
    const later = this.database
      .select({ entries: pages.entries })
      .from(pages)
      .where(eq(pages.run, run))
      .orderBy(pages.id)
      .all();
    const kept = [row, ...later].flatMap(({ entries }) => JSON.parse(entries) as Stored<JournalEntry>[]);
    const bodies = this.bodies(hashesIn(kept));
    const list = kept.map((entry) => restoreRemoved(entry, bodies));
    return whole ? list.map((entry) => readEntry(this.#whole(entry, row))) : list;
  }

  #whole(entry: JournalEntry, row: typeof runs.$inferSelect): JournalEntry {
    const { unseal } = this.options;
    if (entry.type === 'started') {
      const document = row.document === null ? undefined : this.document(row.document);
      return {
        ...entry,
        head: readHead(row.head),
        ...(row.sealed !== null && { sealed: unseal(row.sealed) }),
        ...(document !== undefined && { document }),
      };
    }
    if ((entry.type === 'step_settled' || entry.type === 'agent_turn') && entry.sealed !== undefined)
      return { ...entry, sealed: unseal(entry.sealed as unknown as string) as { value: Json; secrets: string[] } };
    return entry;
  }

  /** A document that ran, by its hash. */
  document(hash: string): Json | undefined {
    const row = this.database.select().from(documents).where(eq(documents.hash, hash)).get();
    return row && (JSON.parse(row.body) as Json);
  }

  /** Payloads by their hashes, as JSON. */
  bodies(hashes: readonly string[]): Map<string, string> {
    const found = new Map<string, string>();
    // Maximum number of parameters of a statement.
    for (let from = 0; from < hashes.length; from += 500) {
      const some = hashes.slice(from, from + 500);
      const rows = this.database.select().from(payloads).where(inArray(payloads.hash, some)).all();
      for (const { hash, body } of rows) found.set(hash, body);
    }
    return found;
  }

  /** Writes what is waiting, at once. What cannot be written stays. @throws storage_failed */
  flush(): void {
    this.#flushQuietly();
    if (this.#trouble) throw this.#trouble;
  }

  #flushQuietly(): void {
    if (this.#soon) clearImmediate(this.#soon);
    if (this.#later) clearTimeout(this.#later);
    if (this.#gather) clearTimeout(this.#gather);
    this.#soon = this.#later = this.#gather = null;
    const waiting = this.#waiting;
    this.#waiting = [];
    const refused = this.#writeGroup();
    if (this.#trouble && this.#pages.size > 0) this.#later = setTimeout(() => this.#flushQuietly(), TRY_AGAIN).unref();
    for (const { run, resolve, reject } of waiting) {
      const error = refused.get(run) ?? (this.#pages.has(run) ? this.#trouble : null);
      if (error) reject(error);
      else resolve();
    }
  }

  /** Writes all pages together, or one by one where that fails. @returns why a run's record is refused for good */
  #writeGroup(): Map<string, PindroError> {
    const refused = new Map<string, PindroError>();
    const all = [...this.#pages];
    if (all.length === 0) return refused;
    const first = this.#write(all);
    if (!first) {
      this.#well();
      return refused;
    }
    if (all.length === 1) this.#refuse(all[0]!, first, refused);
    else
      for (const one of all) {
        const failure = this.#write([one]);
        if (failure) this.#refuse(one, failure, refused);
        // Where there is no room for one, there is none for the next.
        if (failure && !failure.unfit) break;
      }
    if (!this.#pages.size) this.#well();
    return refused;
  }

  #refuse(
    [run, page]: [string, Page],
    { unfit, error }: ReturnType<typeof explainFailure>,
    refused: Map<string, PindroError>,
  ) {
    if (!unfit) return this.#inTrouble(error);
    refused.set(run, error);
    this.#pages.delete(run);
    if (page.head && !page.ended) this.#lost.add(run);
    if (page.head || page.ended) this.#underWay.forget(run);
  }

  #inTrouble(error: PindroError): void {
    if (!this.#trouble) this.options.trouble?.(error);
    this.#trouble = error;
  }

  #well(): void {
    this.#spansHeld = 0;
    if (!this.#trouble) return;
    this.#trouble = null;
    this.options.trouble?.(null);
  }

  /** Writes pages in one transaction. @returns why not, or null */
  #write(group: readonly [string, Page][]): ReturnType<typeof explainFailure> | null {
    try {
      this.database.driver
        .transaction(() => {
          for (const [run, page] of group) this.#writePage(run, page);
        })
        .immediate();
    } catch (thrown) {
      // What the transaction took back is not stored.
      for (const [, { document }] of group) if (document) this.#documents.delete(document as object);
      return explainFailure(thrown);
    }
    for (const [run, { head, ended, state }] of group) {
      this.#pages.delete(run);
      const end = ended && this.#underWay.endOf(run, ended);
      if (ended) this.#underWay.forget(run);
      if (head || ended || state) this.options.written?.(run, ended?.state ?? null, end);
    }
    return null;
  }

  #pageOf(run: string): Page {
    let page = this.#pages.get(run);
    if (!page) {
      page = { head: null, sealed: undefined, document: undefined, ended: null, state: null, entries: [], spans: [] };
      this.#pages.set(run, page);
    }
    return page;
  }

  #take(entry: JournalEntry): void {
    const page = this.#pageOf(entry.run);
    if (entry.type !== 'started') {
      this.#follow(entry, page);
      if (entry.type === 'step_settled' || entry.type === 'agent_turn') {
        if (entry.sealed) return void page.entries.push({ ...entry, sealed: this.options.seal(asJson(entry.sealed)) });
      }
      page.entries.push(entry);
      if (entry.type === 'ended') page.ended = entry;
      return;
    }
    const { head, sealed, document, ...rest } = entry;
    this.#underWay.begin(head);
    Object.assign(page, { head, sealed, document });
    // The head is in the run's row; storing it twice would double the cost of a short call.
    page.entries.push(rest);
  }

  /** Whether the run waits now, where an entry changes that. */
  #follow(entry: JournalEntry, page: Page): void {
    if (entry.type === 'parked') {
      this.#underWay.park(entry.run, entry.path);
      page.state = 'waiting';
    }
    if (entry.type === 'unparked' && this.#underWay.unpark(entry.run, entry.path)) page.state = 'running';
    if (entry.type === 'step_settled' && this.#underWay.settle(entry.run, entry.path)) page.state = 'running';
  }

  /** A run resumes after a restart: it receives the waiting steps. */
  takeUp(run: string, paths: readonly string[]): void {
    this.#underWay.takeUp(run, paths);
  }

  #writePage(run: string, page: Page): void {
    const { head, sealed, ended, state } = page;
    const end = ended && {
      state: ended.state,
      endedAt: ended.at,
      outcome: JSON.stringify({ result: ended.result, error: ended.error, receipt: ended.receipt }),
    };
    if (ended) this.#keepSums(run);
    const keep = (hash: string, body: string) => {
      this.#insertPayload({ hash, body, bytes: Buffer.byteLength(body) });
      this.#insertUse({ run, hash });
    };
    const entries = JSON.stringify(page.entries.map((entry) => takeOut(entry as JournalEntry, keep)));
    const spans = writeSpans(page.spans, keep);
    if (head) {
      this.#insertRun({
        id: run,
        flow: head.flow,
        state: state ?? 'running',
        caller: head.caller.id,
        session: head.session,
        parentRun: head.parentRun,
        endpoint: head.parentRun === null ? (head.through?.endpoint ?? null) : null,
        head: writeHead(head),
        sealed: sealed === undefined ? null : this.options.seal(sealed),
        document: page.document === undefined ? null : this.#keepDocument(page.document as object),
        endedAt: null,
        outcome: null,
        ...end,
        entries,
        spans,
      });
      return;
    }
    this.#insertPage({ run, entries, spans });
    const change = end ?? (state && { state });
    if (change) this.database.update(runs).set(change).where(eq(runs.id, run)).run();
  }

  #keepSums(run: string): void {
    const sums = this.#underWay.sumsOf(run);
    if (!sums) return;
    for (const mark of sums.marks) this.#insertMark({ mark, run });
    const { tokens, cost } = sums;
    if (tokens > 0 || cost > 0) this.#insertSpent({ run, tokens, cost });
  }

  #keepDocument(document: object): string {
    const known = this.#documents.get(document);
    const now = Date.now();
    if (known && now - known.usedAt < NOTE_USE_EVERY) return known.hash;
    const body = JSON.stringify(document);
    const hash = hashOf(body);
    this.database
      .insert(documents)
      .values({ hash, body, usedAt: now })
      .onConflictDoUpdate({ target: documents.hash, set: { usedAt: now } })
      .run();
    this.#documents.set(document, { hash, usedAt: now });
    return hash;
  }
}
