import type { RunSummary } from '@pindro/contract';
import {
  diagnose,
  type ErrorRecord,
  type Finding,
  type JournalEntry,
  type Json,
  PindroError,
  type RunHead,
  type RunState,
  type Span,
  type Stage,
} from '@pindro/core';
import { and, desc, eq, getTableColumns, inArray, isNull, lt, ne, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { pages, runs } from './tables.js';

export interface RunFilter {
  flow?: string | undefined;
  /** Only runs of these flows. */
  flows?: readonly string[] | undefined;
  stage?: Stage | undefined;
  state?: RunState | undefined;
  caller?: string | undefined;
  session?: string | undefined;
  /** Only runs that no other run started. */
  roots?: boolean | undefined;
  limit: number;
  /** The id of the last run of the page before. */
  cursor?: string | undefined;
}

/** A run as it is recorded. */
export interface RunRecord {
  head: RunHead;
  state: RunState;
  sealed: string | null;
  endedAt: number | null;
  result: Json;
  error: ErrorRecord | null;
}

/** A tool call from outside, as far as its use is counted. */
export interface EndpointCall {
  tool: string;
  caller: string;
  state: RunState;
  startedAt: number;
  endedAt: number | null;
  error: ErrorRecord | null;
}
/** More calls than these are not looked at. */
const MOST_CALLS = 100_000;

type SettledEntry = Extract<JournalEntry, { type: 'step_settled' }>;

const iso = (moment: number) => new Date(moment).toISOString();

/** What is read of a run without its record. */
const { entries: FIRST_ENTRIES, spans: FIRST_SPANS, ...HEAD } = getTableColumns(runs);
type Row = Omit<typeof runs.$inferSelect, 'entries' | 'spans'>;

function readRow(row: Row): RunRecord {
  const outcome = row.outcome === null ? null : (JSON.parse(row.outcome) as { result: Json; error?: ErrorRecord });
  return {
    head: JSON.parse(row.head) as RunHead,
    state: row.state as RunState,
    sealed: row.sealed,
    endedAt: row.endedAt,
    result: outcome?.result ?? null,
    error: outcome?.error ?? null,
  };
}

/** Reads the record of runs. */
export class RunStore {
  constructor(private readonly database: Database) {}

  /** Calls through an endpoint since a moment, the newest first. */
  callsThrough(endpoints: readonly string[], since: number): EndpointCall[] {
    const started = sql<number>`json_extract(${runs.head}, '$.startedAt')`;
    return this.database
      .select({
        tool: sql<string>`json_extract(${runs.head}, '$.through.tool')`,
        caller: runs.caller,
        state: runs.state,
        startedAt: started,
        endedAt: runs.endedAt,
        // A result may be long, and is not counted.
        error: sql<string | null>`json_extract(${runs.outcome}, '$.error')`,
      })
      .from(runs)
      .where(and(inArray(runs.endpoint, [...endpoints]), sql`${started} >= ${since}`))
      .orderBy(desc(runs.id))
      .limit(MOST_CALLS)
      .all()
      .map((row) => ({
        ...row,
        state: row.state as RunState,
        error: row.error === null ? null : (JSON.parse(row.error) as ErrorRecord),
      }));
  }

  /** Runs that were under way when the service stopped are marked, once, at its start; those that waited go on. @returns how many */
  markInterrupted(now: number): number {
    const open = this.database
      .select({ id: runs.id })
      .from(runs)
      .where(and(isNull(runs.endedAt), ne(runs.state, 'waiting')))
      .all();
    const error = new PindroError('interrupted').toRecord();
    this.database.door
      .transaction(() => {
        for (const { id } of open) {
          const sequence = this.entries(id).length;
          const ended: JournalEntry = {
            run: id,
            sequence,
            at: now,
            type: 'ended',
            state: 'interrupted',
            result: null,
            error,
          };
          this.database
            .insert(pages)
            .values({ run: id, entries: JSON.stringify([ended]), spans: '[]' })
            .run();
          this.database
            .update(runs)
            .set({ state: 'interrupted', endedAt: now, outcome: JSON.stringify({ result: null, error }) })
            .where(eq(runs.id, id))
            .run();
        }
      })
      .immediate();
    return open.length;
  }

  list(filter: RunFilter): { items: RunRecord[]; next: string | null } {
    const wanted: (SQL | undefined)[] = [
      filter.flow ? eq(runs.flow, filter.flow) : undefined,
      filter.flows ? inArray(runs.flow, [...filter.flows]) : undefined,
      filter.stage ? sql`json_extract(${runs.head}, '$.stage') = ${filter.stage}` : undefined,
      filter.state ? eq(runs.state, filter.state) : undefined,
      filter.caller ? eq(runs.caller, filter.caller) : undefined,
      filter.session ? eq(runs.session, filter.session) : undefined,
      filter.roots ? isNull(runs.parentRun) : undefined,
      filter.cursor ? lt(runs.id, filter.cursor) : undefined,
    ];
    const rows = this.database
      .select(HEAD)
      .from(runs)
      .where(and(...wanted))
      .orderBy(desc(runs.id))
      .limit(filter.limit + 1)
      .all();
    const items = rows.slice(0, filter.limit).map(readRow);
    return { items, next: rows.length > filter.limit ? items.at(-1)!.head.id : null };
  }

  count(): { runs: number; running: number } {
    const count = (where?: SQL) =>
      Number(this.database.select({ count: sql<number>`count(*)` }).from(runs).where(where).get()?.count ?? 0);
    return { runs: count(), running: count(isNull(runs.endedAt)) };
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

  spans(tree: readonly RunRecord[]): Span[] {
    const ids = tree.map((run) => run.head.id);
    const first = this.database.select({ spans: FIRST_SPANS }).from(runs).where(inArray(runs.id, ids)).all();
    const later = this.database
      .select({ spans: pages.spans })
      .from(pages)
      .where(inArray(pages.run, ids))
      .orderBy(pages.id)
      .all();
    return inTreeOrder([...first, ...later].flatMap((row) => JSON.parse(row.spans) as Span[]));
  }

  /** Runs that wait for somebody or a time, oldest first. */
  waiting(): RunRecord[] {
    return this.database
      .select(HEAD)
      .from(runs)
      .where(and(isNull(runs.endedAt), eq(runs.state, 'waiting')))
      .orderBy(runs.id)
      .all()
      .map(readRow);
  }

  /** The whole journal of a run, with its head put back and what was sealed opened. */
  recall(id: string, unseal: (sealed: string) => Json): JournalEntry[] {
    const row = this.database.select(HEAD).from(runs).where(eq(runs.id, id)).get();
    if (!row) return [];
    const { head, sealed } = readRow(row);
    return this.entries(id).map((entry) => {
      if (entry.type === 'started') return { ...entry, head, ...(sealed !== null && { sealed: unseal(sealed) }) };
      if (entry.type === 'step_settled' && entry.sealed !== undefined)
        return { ...entry, sealed: unseal(entry.sealed as unknown as string) as never };
      return entry;
    });
  }

  /** The journal of a run in order. */
  entries(id: string): JournalEntry[] {
    const first = this.database.select({ entries: FIRST_ENTRIES }).from(runs).where(eq(runs.id, id)).all();
    const later = this.database
      .select({ entries: pages.entries })
      .from(pages)
      .where(eq(pages.run, id))
      .orderBy(pages.id)
      .all();
    return [...first, ...later].flatMap((row) => JSON.parse(row.entries) as JournalEntry[]);
  }

  settled(id: string): SettledEntry[] {
    return this.entries(id).filter((entry) => entry.type === 'step_settled');
  }

  findings(tree: readonly RunRecord[], spanList: Span[]): Finding[] {
    const known = tree.map(({ head, state, error }) => ({
      id: head.id,
      flow: head.flow,
      parentRun: head.parentRun,
      state,
      error,
    }));
    return diagnose({ runs: known, spans: spanList });
  }

  /** What went wrong in a run, in one sentence. */
  title(run: RunRecord): string | null {
    if (run.state !== 'failed' && run.state !== 'interrupted') return null;
    const tree = this.tree(run.head.id);
    const finding = this.findings(tree, this.spans(tree)).find((one) => one.severity === 'failure');
    return finding?.title ?? run.error?.message ?? null;
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
  { head, state, endedAt, error }: RunRecord,
  title: string | null = error?.message ?? null,
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
    title,
  };
}
