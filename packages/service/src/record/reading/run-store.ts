import type { RunSummary } from '@pindro/contract';
import {
  DIAGNOSIS_VERSION,
  diagnose,
  type ErrorRecord,
  type Exchange,
  exchangeSchema,
  type Finding,
  type FlowDocument,
  type FlowOutcome,
  giveWay,
  type JournalEntry,
  type Json,
  PindroError,
  type Receipt,
  type RunHead,
  type RunState,
  type Span,
  type Trace,
} from '@pindro/core';
import { and, eq, gte, inArray, isNotNull, isNull, sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Database } from '../../platform/database/open.js';
import { readHead } from '../head.js';
import { exchangesOf, hashesIn, restoreRemoved, type Stored, withoutExchanges } from '../payloads.js';
import { FAILED, markOf, WITHHELD } from '../run-flags.js';
import { readSpans } from '../span-text.js';
import type { SqliteJournal } from '../sqlite-journal.js';
import { findings, marks, pages, recordTotals, runs } from '../tables.js';
import { type Activity, activityOf, idAt } from './activity.js';
import { callsThrough, type EndpointCall, HEAD, type Row, type RunFilter, searchRuns } from './search.js';

/** A run as it is recorded. */
export interface RunRecord {
  head: RunHead;
  state: RunState;
  sealed: string | null;
  endedAt: number | null;
  result: Json;
  error: ErrorRecord | null;
  /** What its agents did. */
  receipt: Receipt | null;
}

interface KeptFindings {
  version: number;
  findings: Finding[];
}

/** What stands of a run in a list. */
export type FoundTitle = Pick<Finding, 'title' | 'code' | 'severity'>;

/** Whether a run came to an end that somebody will want explained. */
export const isBad = (state: RunState) => state === 'failed' || state === 'interrupted';

type SettledEntry = Extract<JournalEntry, { type: 'step_settled' }>;

const iso = (moment: number) => new Date(moment).toISOString();

interface KeptOutcome {
  result: Json;
  error?: ErrorRecord;
  receipt?: Receipt;
}

function readRow(row: Row): RunRecord {
  const outcome = row.outcome === null ? null : (JSON.parse(row.outcome) as KeptOutcome);
  return {
    head: readHead(row.head),
    state: row.state as RunState,
    sealed: row.sealed,
    endedAt: row.endedAt,
    result: outcome?.result ?? null,
    error: outcome?.error ?? null,
    receipt: outcome?.receipt ?? null,
  };
}

/** Reads the record of runs. */
export class RunStore {
  constructor(
    private readonly database: Database,
    private readonly journal: SqliteJournal,
  ) {}

  /** Calls through an endpoint since a moment, the newest first. */
  callsThrough(endpoints: readonly string[], since: number): Promise<EndpointCall[]> {
    return callsThrough(this.database, endpoints, since);
  }

  async list(filter: RunFilter): Promise<{ items: RunRecord[]; next: string | null }> {
    const rows = await searchRuns(this.database, filter);
    const items = rows.slice(0, filter.limit).map(readRow);
    return { items, next: rows.length > filter.limit ? items.at(-1)!.head.id : null };
  }

  /** How runs went in the last hours, and which flows failed most. */
  activity(hours: number): Promise<Activity> {
    return activityOf(this.database, hours);
  }

  /** Those of some runs in which something failed, whether it was dealt with or not. */
  withFailures(ids: readonly string[]): Set<string> {
    if (ids.length === 0) return new Set();
    const where = and(eq(marks.mark, FAILED), inArray(marks.run, [...ids]));
    return new Set(
      this.database
        .select({ run: marks.run })
        .from(marks)
        .where(where)
        .all()
        .map(({ run }) => run),
    );
  }

  /** Whether anything was ever called through an endpoint. */
  hasEndpointCalls(): boolean {
    return (
      this.database.select({ id: runs.id }).from(runs).where(isNotNull(runs.endpoint)).limit(1).get() !== undefined
    );
  }

  count(): { runs: number; running: number } {
    const total = this.database.select().from(recordTotals).where(eq(recordTotals.name, 'runs')).get();
    const open = this.database.select({ count: sql<number>`count(*)` }).from(runs).where(isNull(runs.endedAt)).get();
    return { runs: total?.count ?? 0, running: Number(open?.count ?? 0) };
  }

  find(id: string): RunRecord | null {
    const row = this.database.select(HEAD).from(runs).where(eq(runs.id, id)).get();
    return row ? readRow(row) : null;
  }

  get(id: string): RunRecord {
    const run = this.find(id);
    if (!run)
      throw new PindroError('not_found', {
        what: 'run',
        name: id,
        suggestion: 'List the runs with "pindro run list".',
      });
    return run;
  }

  /** The run and all it started, directly or not; told apart by the run tree, never by a trace id that a client sent. */
  tree(id: string): RunRecord[] {
    const tree = [this.get(id)];
    for (let level = [id]; level.length > 0; ) {
      const children = this.database.select(HEAD).from(runs).where(inArray(runs.parentRun, level)).all().map(readRow);
      tree.push(...children);
      level = children.map((child) => child.head.id);
    }
    return tree;
  }

  /** Without exchanges. */
  spans(tree: readonly RunRecord[]): Span[] {
    const kept = this.#written(tree).map(withoutExchanges);
    const bodies = this.journal.bodies(hashesIn(kept));
    return inTreeOrder(kept.map((span) => restoreRemoved(span, bodies)));
  }

  /** The captured exchanges of a span. @throws not_found */
  exchanges(id: string, spanId: string): Exchange[] {
    const span = this.#written([this.get(id)]).find((one) => one.spanId === spanId);
    if (!span) throw new PindroError('not_found', { what: 'span of the run', name: spanId, suggestion: '' });
    const hash = exchangesOf(span);
    const body = hash === undefined ? undefined : this.journal.bodies([hash]).get(hash);
    return body === undefined ? [] : z.array(exchangeSchema).parse(JSON.parse(body));
  }

  #written(tree: readonly RunRecord[]): Stored<Span>[] {
    const ids = tree.map((run) => run.head.id);
    const first = this.database
      .select({ run: runs.id, spans: runs.spans })
      .from(runs)
      .where(inArray(runs.id, ids))
      .all();
    const later = this.database
      .select({ run: pages.run, spans: pages.spans })
      .from(pages)
      .where(inArray(pages.run, ids))
      .orderBy(pages.id)
      .all();
    const traces = new Map(tree.map(({ head }) => [head.id, head.traceId]));
    return [...first, ...later].flatMap(({ run, spans }) => readSpans(spans, { run, traceId: traces.get(run)! }));
  }

  /** Runs that have not ended, oldest first. */
  open(): RunRecord[] {
    return this.database
      .select(HEAD)
      .from(runs)
      .where(isNull(runs.endedAt))
      .orderBy(sql`+${runs.id}`)
      .all()
      .map(readRow);
  }

  /** Those of the runs that have ended, or are not there at all. */
  ended(ids: readonly string[]): string[] {
    const open = new Set(this.open().map(({ head }) => head.id));
    return ids.filter((id) => !open.has(id));
  }

  /** The runs that a run began. */
  childrenOf(id: string): RunRecord[] {
    return this.database.select(HEAD).from(runs).where(eq(runs.parentRun, id)).all().map(readRow);
  }

  /** The outcome of a run for its caller. */
  outcomeOf(id: string): FlowOutcome {
    const { state, result, error, receipt } = this.get(id);
    const seen =
      state === 'done' || state === 'failed' || state === 'cancelled' || state === 'waiting' ? state : 'failed';
    return { run: id, state: seen, result, ...(error && { error }), ...(receipt && { receipt }) };
  }

  /** The whole input of a run, also where parts of it are sensitive. */
  inputOf(id: string): Json {
    const started = this.recall(id).find((entry) => entry.type === 'started');
    return started?.sealed ?? started?.head.input ?? this.get(id).head.input;
  }

  /** The document that ran; undefined for runs from before documents were kept. */
  documentOf(id: string): FlowDocument | undefined {
    const row = this.database.select({ document: runs.document }).from(runs).where(eq(runs.id, id)).get();
    return row?.document ? (this.journal.document(row.document) as FlowDocument | undefined) : undefined;
  }

  /** The full journal of a run, with its head, document and decrypted parts. */
  recall(id: string): JournalEntry[] {
    return this.journal.entries(id, true);
  }

  /** The journal of a run in order. */
  entries(id: string): JournalEntry[] {
    return this.journal.entries(id);
  }

  settled(id: string): SettledEntry[] {
    return this.entries(id).filter((entry) => entry.type === 'step_settled');
  }

  /** What the diagnosis finds in a run and all it began. Kept once all of them have ended. */
  findings(tree: readonly RunRecord[], spanList?: Span[]): Finding[] {
    const id = tree[0]!.head.id;
    return this.keptFindings(id) ?? diagnose(this.trace(tree, spanList));
  }

  /** What was found by the rules as they are now; null where nothing was yet. */
  keptFindings(id: string): Finding[] | null {
    const kept = this.database
      .select({ body: findings.body })
      .from(findings)
      .where(and(eq(findings.run, id), eq(findings.version, DIAGNOSIS_VERSION)))
      .get();
    return kept ? (JSON.parse(kept.body) as KeptFindings).findings : null;
  }

  /** A run with all it began, as a diagnosis looks at it. */
  trace(tree: readonly RunRecord[], spanList?: Span[]): Trace {
    const known = tree.map(({ head, state, error, receipt, result }) => {
      const document = this.documentOf(head.id) as Json | undefined;
      return {
        ...{ id: head.id, flow: head.flow, parentRun: head.parentRun, state, error, receipt, caller: head.caller.id },
        ...(document !== undefined && { document }),
        ...(head.through && this.#isWithheld(head.id) && { withheldFrom: head.through, result }),
      };
    });
    return { runs: known, spans: spanList ?? this.spans(tree) };
  }

  /** The result of a run that is done was kept from the client: no span shows it, and what was found before is not all. */
  withhold(run: string): void {
    this.database.insert(marks).values({ mark: WITHHELD, run }).onConflictDoNothing().run();
    this.database.delete(findings).where(eq(findings.run, run)).run();
  }

  #isWithheld(run: string): boolean {
    const where = and(eq(marks.mark, WITHHELD), eq(marks.run, run));
    return this.database.select({ run: marks.run }).from(marks).where(where).get() !== undefined;
  }

  /** Unsuccessful runs since a time that were not diagnosed. */
  notLookedAt(since: number, most = 500): string[] {
    return this.database
      .select({ id: runs.id })
      .from(runs)
      .leftJoin(findings, eq(findings.run, runs.id))
      .where(and(gte(runs.id, idAt(since)), inArray(runs.state, ['failed', 'interrupted']), isNull(findings.run)))
      .limit(most)
      .all()
      .map(({ id }) => id);
  }

  keepFindings(run: string, found: Finding[]): void {
    const [first] = found;
    const title = found.find((one) => one.severity !== 'warning')?.title ?? null;
    const body = JSON.stringify({ version: DIAGNOSIS_VERSION, findings: found } satisfies KeptFindings);
    // Reading works while nothing can be written.
    if (this.journal.trouble) return;
    const kept = {
      title,
      body,
      version: DIAGNOSIS_VERSION,
      code: first?.code ?? null,
      severity: first?.severity ?? null,
    };
    this.database
      .insert(findings)
      .values({ run, ...kept })
      .onConflictDoUpdate({ target: findings.run, set: kept })
      .run();
    const codes = [...new Set(found.map((one) => markOf('finding', one.code)))];
    if (codes.length > 0)
      this.database
        .insert(marks)
        .values(codes.map((mark) => ({ mark, run })))
        .onConflictDoNothing()
        .run();
  }

  /** The gravest finding of each of the runs, in one sentence. */
  async titles(list: readonly RunRecord[]): Promise<Map<string, FoundTitle>> {
    const ids = list.map(({ head }) => head.id);
    const { run, title, code, severity, version } = findings;
    const rows = this.database.select({ run, title, code, severity, version }).from(findings);
    const kept = new Map(
      rows
        .where(inArray(run, ids))
        .all()
        .map((row) => [row.run, row] as const),
    );
    const titled = new Map<string, FoundTitle>();
    for (const one of list) {
      const { id } = one.head;
      const known = kept.get(id);
      if (known && known.version === DIAGNOSIS_VERSION) {
        if (known.title !== null) titled.set(id, known as FoundTitle);
        continue;
      }
      if (!isBad(one.state)) continue;
      // Not diagnosed yet: each takes a while.
      await giveWay();
      const first = this.findings(this.tree(id)).find((found) => found.severity !== 'warning');
      titled.set(id, first ?? { title: one.error?.message ?? '', code: 'step_failed', severity: 'failure' });
    }
    return titled;
  }
}

/** Spans in the order of their beginning, each after the one it stands under, also where both began in the same millisecond. */
function inTreeOrder(spans: Span[]): Span[] {
  const known = new Set(spans.map((span) => span.spanId));
  const under = new Map<string | null, Span[]>();
  for (const span of spans.sort((a, b) => a.start - b.start)) {
    const parent = span.parentId !== null && known.has(span.parentId) ? span.parentId : null;
    under.set(parent, [...(under.get(parent) ?? []), span]);
  }
  const walk = (parent: string | null): Span[] =>
    (under.get(parent) ?? []).flatMap((span) => [span, ...walk(span.spanId)]);
  return walk(null);
}

/** A run as the contract shows it. */
export function summarise(
  { head, state, endedAt, error, receipt }: RunRecord,
  found: FoundTitle | null = error && { title: error.message, code: error.code, severity: 'failure' },
): RunSummary {
  const { id, flow, revision, stage, entry, session, parentRun, traceId } = head;
  return {
    id,
    flow,
    revision,
    stage,
    state,
    entry,
    caller: head.caller.id,
    session,
    parentRun,
    traceId,
    startedAt: iso(head.startedAt),
    endedAt: endedAt === null ? null : iso(endedAt),
    error: error as RunSummary['error'],
    title: found && isBad(state) ? found.title : null,
    doubt: found && !isBad(state) ? found.title : (receipt?.contradicts ?? null),
    finding: found?.code ?? null,
  };
}
