import { type ErrorRecord, letOthers, momentOfTrace, type RunState, type Stage } from '@pindro/core';
import { and, desc, eq, getTableColumns, gte, inArray, isNull, lt, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../../platform/database/open.js';
import { FAILED, isMarked, type MarkKind, markOf } from '../run-flags.js';
import { marks, runs, sightings, spent } from '../tables.js';
import { idAt } from './activity.js';

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
  endpoint?: string | undefined;
  tool?: string | undefined;
  server?: string | undefined;
  model?: string | undefined;
  entry?: string | undefined;
  trace?: string | undefined;
  /** The code of a rule that found something. */
  finding?: string | undefined;
  /** The fingerprint of a problem that was seen in it. */
  problem?: string | undefined;
  /** Only these, which have the words that are looked for. */
  among?: readonly string[] | undefined;
  /** Something in it failed, whether it was dealt with or not. */
  failed?: boolean | undefined;
  /** Begun then or later, and before then, in milliseconds since the epoch. */
  since?: number | undefined;
  until?: number | undefined;
  /** Minimum duration, in milliseconds. */
  longer?: number | undefined;
  /** Minimum number of model tokens. */
  tokens?: number | undefined;
  cost?: number | undefined;
  limit: number;
  /** Approximate number of searched runs; all if omitted. */
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

/** Maximum number of counted calls. */
const MOST_CALLS = 100_000;
/** Runs per batch, yielding in between: the match may be old or missing. */
const PIECE = 2000;
/** So near to the moment in its trace id a run begins, in milliseconds. */
const NEAR = 10_000;
/** The first time fewer: mostly what is looked for is among the newest. */
const FIRST = 200;
/** Of calls more is read than that they are there. */
const PIECE_OF_CALLS = 600;

/** What is read of a run without its record. */
const { entries: _, spans: __, document: ___, ...columns } = getTableColumns(runs);
export const HEAD = columns;
export type Row = Omit<typeof runs.$inferSelect, 'entries' | 'spans' | 'document'>;

/** Runs that fit, the newest first, one more than asked for where there are more. */
export async function searchRuns(database: Database, given: RunFilter): Promise<Row[]> {
  let filter = given;
  const wanted: (SQL | undefined)[] = [
    filter.stage ? sql`json_extract(${runs.head}, '$.stage') = ${filter.stage}` : undefined,
    filter.state ? eq(runs.state, filter.state) : undefined,
    filter.caller ? eq(runs.caller, filter.caller) : undefined,
    filter.session ? eq(runs.session, filter.session) : undefined,
    filter.roots ? isNull(runs.parentRun) : undefined,
    filter.entry && !isMarked(filter.entry) ? sql`json_extract(${runs.head}, '$.entry') = ${filter.entry}` : undefined,
    filter.longer ? sql`${runs.endedAt} - json_extract(${runs.head}, '$.startedAt') >= ${filter.longer}` : undefined,
    filter.tokens ? exists(database, gte(spent.tokens, filter.tokens)) : undefined,
    filter.cost ? exists(database, gte(spent.cost, filter.cost)) : undefined,
  ];
  if (filter.trace && !isOutside(database, filter.trace)) {
    // It was made here, and holds the moment in which it was.
    const moment = momentOfTrace(filter.trace);
    wanted.push(sql`json_extract(${runs.head}, '$.traceId') = ${filter.trace}`);
    filter = { ...filter, trace: undefined, since: moment - NEAR, until: moment + NEAR };
  }
  const [first, ...more] = marksIn(filter);
  for (const mark of more) wanted.push(inArray(runs.id, marked(database, mark)));
  const flows = filter.flows ? inArray(runs.flow, [...filter.flows]) : undefined;
  const among = filter.among && sql`${runs.id} IN (SELECT value FROM json_each(${JSON.stringify(filter.among)}))`;
  const own = [
    among,
    filter.flow ? eq(runs.flow, filter.flow) : undefined,
    flows,
    filter.endpoint ? eq(runs.endpoint, filter.endpoint) : undefined,
  ];
  // Rare conditions use their own index; the others filter the remaining runs.
  const source: Source = filter.problem
    ? { table: sightings, id: sightings.run, where: eq(sightings.fingerprint, filter.problem) }
    : first
      ? { table: marks, id: marks.run, where: eq(marks.mark, first) }
      : { table: runs, id: runs.id, where: and(...own) };
  if (source.table !== runs) wanted.push(...own);
  const found: Row[] = [];
  let left = filter.depth ?? Number.POSITIVE_INFINITY;
  const after = filter.since === undefined ? undefined : gte(source.id, idAt(filter.since));
  const before = filter.until === undefined ? undefined : lt(source.id, idAt(filter.until));
  source.where = and(source.where, after, before);
  for await (const { piece, size } of pieces(database, source, filter.cursor)) {
    const rows = database
      .select(HEAD)
      .from(runs)
      .where(and(within(database, source, piece), ...wanted))
      .orderBy(desc(runs.id))
      .limit(filter.limit + 1 - found.length)
      .all();
    found.push(...rows);
    left -= size;
    if (found.length > filter.limit || left <= 0) break;
  }
  return found;
}

/** Sources of matching runs in the order of their IDs. */
interface Source {
  table: typeof runs | typeof marks | typeof sightings;
  id: typeof runs.id | typeof marks.run | typeof sightings.run;
  where: SQL | undefined;
}

/** Runs in a part of a source. */
const within = (database: Database, { table, id }: Source, piece: SQL | undefined): SQL | undefined =>
  table === runs ? piece : inArray(runs.id, database.select({ id }).from(table).where(piece));

const marked = (database: Database, mark: string) =>
  database
    .select({ run: marks.run })
    .from(marks)
    .where(and(eq(marks.mark, mark), eq(marks.run, runs.id)));
const exists = (database: Database, condition: SQL) =>
  inArray(
    runs.id,
    database
      .select({ run: spent.run })
      .from(spent)
      .where(and(eq(spent.run, runs.id), condition)),
  );

/** Whether a trace was begun by somebody else, who knows its id. */
const isOutside = (database: Database, trace: string): boolean =>
  database
    .select()
    .from(marks)
    .where(eq(marks.mark, markOf('trace', trace)))
    .limit(1)
    .get() !== undefined;

/** The marks that runs must have, those that are likely the rarest first. */
function marksIn(filter: RunFilter): string[] {
  const named = (kind: MarkKind) => {
    const name = filter[kind];
    return name ? [markOf(kind, name)] : [];
  };
  const rare = (['trace', 'finding', 'tool', 'server', 'model'] as const).flatMap(named);
  const entry = filter.entry && isMarked(filter.entry) ? named('entry') : [];
  return [...rare, ...(filter.failed ? [FAILED] : []), ...entry];
}

/** Conditions that take what a source has a piece at a time, the newest first. @param before only runs older than that id */
async function* pieces(
  database: Database,
  { table, id, where }: Source,
  before?: string,
  sizes = { first: FIRST, later: PIECE },
): AsyncGenerator<{ piece: SQL | undefined; size: number }> {
  let size = sizes.first;
  for (let end = before; ; ) {
    const older = and(where, end === undefined ? undefined : lt(id, end));
    const start = database.select({ id }).from(table).where(older).orderBy(desc(id)).offset(size).limit(1);
    const next = start.get()?.id;
    yield { piece: and(older, next === undefined ? undefined : gte(id, next)), size };
    if (next === undefined) return;
    end = next;
    size = sizes.later;
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
  const among = and(inArray(runs.endpoint, [...endpoints]), gte(runs.id, idAt(since)));
  const source: Source = { table: runs, id: runs.id, where: among };
  const sizes = { first: PIECE_OF_CALLS, later: PIECE_OF_CALLS };
  for await (const { piece } of pieces(database, source, undefined, sizes)) {
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
