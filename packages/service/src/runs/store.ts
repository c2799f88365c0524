import type { RunSummary, Stage } from '@pindro/contract';
import {
  diagnose,
  type ErrorRecord,
  type Finding,
  type Json,
  type JsonObject,
  PindroError,
  type RunState,
  type Span,
} from '@pindro/core';
import { and, desc, eq, inArray, isNull, lt, or, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { journal, runs, spans } from './tables.js';

type Row = typeof runs.$inferSelect;
export interface RunFilter {
  flow?: string | undefined;
  state?: RunState | undefined;
  caller?: string | undefined;
  session?: string | undefined;
  /** Only runs that no other run started. */
  roots?: boolean | undefined;
  limit: number;
  cursor?: string | undefined;
}
export interface SettledStep {
  path: string;
  state: 'done' | 'failed' | 'skipped';
  branch: string | null;
  output: Json;
  error?: ErrorRecord;
}

const iso = (moment: number) => new Date(moment).toISOString();

/** Reads the record of runs. */
export class RunStore {
  constructor(private readonly database: Database) {}

  /** Runs that were under way when the service stopped are marked, once, at its start. @returns how many */
  markInterrupted(now: number): number {
    const open = this.database
      .select({ id: runs.id })
      .from(runs)
      .where(inArray(runs.state, ['running', 'queued']))
      .all();
    this.database.door
      .transaction(() => {
        for (const { id } of open) {
          const last = this.database
            .select({ sequence: journal.sequence })
            .from(journal)
            .where(eq(journal.run, id))
            .orderBy(desc(journal.sequence))
            .limit(1)
            .get();
          const error = new PindroError('interrupted').toRecord();
          const body = JSON.stringify({ state: 'interrupted', result: null, error });
          this.database
            .insert(journal)
            .values({ run: id, sequence: (last?.sequence ?? -1) + 1, at: now, type: 'ended', body })
            .run();
          this.database
            .update(runs)
            .set({ state: 'interrupted', endedAt: now, error: JSON.stringify(error) })
            .where(eq(runs.id, id))
            .run();
        }
      })
      .immediate();
    return open.length;
  }

  list(filter: RunFilter): { items: RunSummary[]; next: string | null } {
    const wanted: (SQL | undefined)[] = [
      filter.flow ? eq(runs.flow, filter.flow) : undefined,
      filter.state ? eq(runs.state, filter.state) : undefined,
      filter.caller ? eq(runs.caller, filter.caller) : undefined,
      filter.session ? eq(runs.session, filter.session) : undefined,
      filter.roots ? isNull(runs.parentRun) : undefined,
      filter.cursor ? before(filter.cursor) : undefined,
    ];
    const rows = this.database
      .select()
      .from(runs)
      .where(and(...wanted))
      .orderBy(desc(runs.startedAt), desc(runs.id))
      .limit(filter.limit + 1)
      .all();
    const shown = rows.slice(0, filter.limit);
    const last = shown.at(-1);
    return {
      items: shown.map((row) => this.summary(row)),
      next: rows.length > filter.limit && last ? `${last.startedAt}.${last.id}` : null,
    };
  }

  count(): { runs: number; running: number } {
    const count = (where?: SQL) =>
      this.database.select({ count: sql<number>`count(*)` }).from(runs).where(where).get()?.count ?? 0;
    return { runs: Number(count()), running: Number(count(eq(runs.state, 'running'))) };
  }

  row(id: string): Row {
    const row = this.database.select().from(runs).where(eq(runs.id, id)).get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'run',
        name: id,
        suggestion: 'List the runs with "pindro run list".',
      });
    return row;
  }

  /** The run and all it started, directly or not; told apart by the run tree, never by a trace id that a client sent. */
  tree(id: string): Row[] {
    const tree = [this.row(id)];
    let level = [id];
    while (level.length > 0) {
      const children = this.database.select().from(runs).where(inArray(runs.parentRun, level)).all();
      tree.push(...children);
      level = children.map((child) => child.id);
    }
    return tree;
  }

  spans(ids: string[]): Span[] {
    return this.database
      .select({ body: spans.body })
      .from(spans)
      .where(inArray(spans.run, ids))
      .orderBy(spans.start)
      .all()
      .map(({ body }) => JSON.parse(body) as Span);
  }

  settled(id: string): SettledStep[] {
    return this.database
      .select({ body: journal.body })
      .from(journal)
      .where(and(eq(journal.run, id), eq(journal.type, 'step_settled')))
      .orderBy(journal.sequence)
      .all()
      .map(({ body }) => JSON.parse(body) as SettledStep);
  }

  findings(tree: Row[], spanList: Span[]): Finding[] {
    return diagnose({
      runs: tree.map((row) => ({
        id: row.id,
        flow: row.flow,
        parentRun: row.parentRun,
        state: row.state as RunState,
        error: row.error ? (JSON.parse(row.error) as ErrorRecord) : null,
      })),
      spans: spanList,
    });
  }

  summary(row: Row): RunSummary {
    const failed = row.state === 'failed' || row.state === 'interrupted';
    const error = row.error ? (JSON.parse(row.error) as ErrorRecord) : null;
    return {
      id: row.id,
      flow: row.flow,
      revision: row.revision,
      stage: row.stage as Stage,
      state: row.state as RunState,
      entry: row.entry,
      caller: row.caller,
      session: row.session,
      parentRun: row.parentRun,
      traceId: row.traceId,
      startedAt: iso(row.startedAt),
      endedAt: row.endedAt === null ? null : iso(row.endedAt),
      error: error as RunSummary['error'],
      title: failed ? (error?.message ?? null) : null,
    };
  }

  attributes(row: Row): JsonObject {
    return JSON.parse(row.attributes) as JsonObject;
  }
}

function before(cursor: string): SQL | undefined {
  const dot = cursor.indexOf('.');
  const start = Number(cursor.slice(0, dot));
  if (dot < 0 || !Number.isSafeInteger(start))
    throw new PindroError('request_invalid', { why: 'The cursor is not one that this list gave' });
  return or(lt(runs.startedAt, start), and(eq(runs.startedAt, start), lt(runs.id, cursor.slice(dot + 1))));
}
