import { type ErrorRecord, letOthers, type RunState, type Stage } from '@pindro/core';
import { and, desc, eq, getTableColumns, gte, inArray, isNull, lt, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { runs } from '../record/tables.js';

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
  /** So many runs are looked through, about; all if left out. */
  depth?: number | undefined;
  /** The id of the last run of the page before. */
  cursor?: string | undefined;
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
/** So many runs are looked through at a time, with others in between: what is searched for may be long ago, or not be. */
const PIECE = 2000;
/** Of calls more is read than that they are there. */
const PIECE_OF_CALLS = 600;

/** What is read of a run without its record. */
const { entries: _, spans: __, document: ___, ...columns } = getTableColumns(runs);
export const HEAD = columns;
export type Row = Omit<typeof runs.$inferSelect, 'entries' | 'spans' | 'document'>;

/** Runs that fit, the newest first, one more than asked for where there are more. */
export async function searchRuns(database: Database, filter: RunFilter): Promise<Row[]> {
  const wanted: (SQL | undefined)[] = [
    filter.stage ? sql`json_extract(${runs.head}, '$.stage') = ${filter.stage}` : undefined,
    filter.state ? eq(runs.state, filter.state) : undefined,
    filter.caller ? eq(runs.caller, filter.caller) : undefined,
    filter.session ? eq(runs.session, filter.session) : undefined,
    filter.roots ? isNull(runs.parentRun) : undefined,
  ];
  const flows = filter.flows ? inArray(runs.flow, [...filter.flows]) : undefined;
  const among = and(filter.flow ? eq(runs.flow, filter.flow) : undefined, flows);
  const found: Row[] = [];
  let left = filter.depth ?? Number.POSITIVE_INFINITY;
  for await (const piece of pieces(database, among, PIECE, filter.cursor)) {
    const rows = database
      .select(HEAD)
      .from(runs)
      .where(and(piece, ...wanted))
      .orderBy(desc(runs.id))
      .limit(filter.limit + 1 - found.length)
      .all();
    found.push(...rows);
    left -= PIECE;
    if (found.length > filter.limit || left <= 0) break;
  }
  return found;
}

/** Conditions that take runs a piece at a time, the newest first. @param before only runs older than that id */
async function* pieces(
  database: Database,
  among: SQL | undefined,
  size: number,
  before?: string,
): AsyncGenerator<SQL | undefined> {
  for (let end = before; ; ) {
    const older = and(among, end === undefined ? undefined : lt(runs.id, end));
    const start = database.select({ id: runs.id }).from(runs).where(older).orderBy(desc(runs.id)).offset(size).limit(1);
    const next = start.get()?.id;
    yield and(older, next === undefined ? undefined : gte(runs.id, next));
    if (next === undefined) return;
    end = next;
    await letOthers();
  }
}

/** Calls through an endpoint since a moment, the newest first. */
export async function callsThrough(
  database: Database,
  endpoints: readonly string[],
  since: number,
): Promise<EndpointCall[]> {
  const calls: EndpointCall[] = [];
  // Ids made later sort later.
  const among = and(inArray(runs.endpoint, [...endpoints]), gte(runs.id, `r${Math.round(since).toString(36)}`));
  for await (const piece of pieces(database, among, PIECE_OF_CALLS)) {
    const rows = database
      .select({
        tool: sql<string>`json_extract(${runs.head}, '$.through.tool')`,
        caller: runs.caller,
        state: runs.state,
        startedAt: sql<number>`json_extract(${runs.head}, '$.startedAt')`,
        endedAt: runs.endedAt,
        // A result may be long, and is not counted.
        error: sql<string | null>`json_extract(${runs.outcome}, '$.error')`,
      })
      .from(runs)
      .where(piece)
      .orderBy(desc(runs.id))
      .all();
    for (const { state, error, ...row } of rows)
      calls.push({
        ...row,
        state: state as RunState,
        error: error === null ? null : (JSON.parse(error) as ErrorRecord),
      });
    if (calls.length >= MOST_CALLS) break;
  }
  return calls;
}
