import type { ProblemDetail, ProblemState, ProblemSummary } from '@pindro/contract';
import { attribute, type Finding, PindroError, type Span } from '@pindro/core';
import { and, desc, eq, inArray, ne, type SQL, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { RunRecord } from '../record/reading/run-store.js';
import { Sightings } from '../record/sightings.js';
import { type RetryCost, retryCostOf } from './retry-cost.js';
import { problems } from './tables.js';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const iso = (moment: number) => new Date(moment).toISOString();
type Row = typeof problems.$inferSelect;

/** What somebody says of a problem. */
export interface Verdict {
  state: ProblemState;
  /** Until when it is expected, in milliseconds since the epoch. */
  until: number | null;
  note: string;
  by: string;
}

/** Findings across runs: the most frequent, their first occurrence, and recurring ones. */
export class ProblemStore {
  readonly #sightings: Sightings;

  constructor(
    private readonly database: Database,
    /** Receives new and recurring problems. */
    private readonly appeared: (problem: ProblemSummary) => void = () => {},
    /** How the tools of a server changed about the time when a trouble was first seen. */
    private readonly changedTools: (server: string, at: number) => ProblemDetail['toolsChanged'] = () => null,
  ) {
    this.#sightings = new Sightings(database);
  }

  /** Counts the findings of a root run. Handled ones count as cost. */
  seen({ head }: RunRecord, found: readonly Finding[], spans: readonly Span[]): void {
    if (found.length === 0) return;
    const fresh: string[] = [];
    this.database.driver
      .transaction(() => {
        for (const finding of found) {
          const { fingerprint, code, severity } = finding;
          const at = spans.find(({ spanId }) => spanId === finding.span)?.attributes ?? {};
          const waste = retryCostOf(finding, spans);
          const isNew = this.#sightings.add({
            ...{ fingerprint, code, severity, run: head.id, flow: head.flow, caller: head.caller.id },
            ...{ tool: textOf(at[attribute.tool]), revision: head.revision, at: head.startedAt, tokens: waste.tokens },
          });
          const server = textOf(at[attribute.server]);
          if (isNew && this.#count(head, finding, server, waste)) fresh.push(fingerprint);
        }
      })
      .immediate();
    for (const fingerprint of fresh) this.appeared(this.#summary(this.#row(fingerprint)));
  }

  /** @returns whether it is to be told: it is new, or back, or was always dealt with before */
  #count(head: RunRecord['head'], finding: Finding, server: string | null, waste: RetryCost): boolean {
    const { fingerprint, code, severity } = finding;
    const before = this.database.select().from(problems).where(eq(problems.fingerprint, fingerprint)).get();
    const last = { finding: JSON.stringify(finding), severity, lastRun: head.id, lastAt: head.startedAt };
    const isGrave = severity !== 'warning';
    if (!before) {
      this.database
        .insert(problems)
        .values({
          ...{ ...last, ...waste, fingerprint, code, server, flow: head.flow, times: 1 },
          ...{ firstRun: head.id, firstAt: head.startedAt, sinceRevision: head.revision },
        })
        .run();
      return isGrave;
    }
    // Runs that started before the resolution do not reopen it.
    const isBack = before.state === 'resolved' && head.startedAt > (before.changedAt ?? 0);
    const isLater = head.startedAt >= before.lastAt;
    this.database
      .update(problems)
      .set({
        ...{ times: before.times + 1, rounds: before.rounds + waste.rounds },
        ...{ tokens: before.tokens + waste.tokens, money: before.money + waste.money },
        ...(isLater && last),
        ...(isBack && { state: 'recurring' }),
      })
      .where(eq(problems.fingerprint, fingerprint))
      .run();
    return isGrave && (isBack || before.severity === 'warning');
  }

  /** Most recent first; resolved and expected ones only on request. */
  list(filter: {
    state?: ProblemState | undefined;
    flow?: string | undefined;
    /** Those that were dealt with in their runs, in place of the others; what cost most first. */
    handled?: boolean | undefined;
    limit: number;
  }): ProblemSummary[] {
    const { handled = false } = filter;
    const severity = handled ? eq(problems.severity, 'warning') : ne(problems.severity, 'warning');
    const rows = this.database
      .select()
      .from(problems)
      .where(and(severity, filter.flow ? eq(problems.flow, filter.flow) : undefined, this.#inState(filter.state)))
      .orderBy(...(handled ? [desc(problems.tokens)] : []), desc(problems.lastAt))
      .limit(filter.limit)
      .all();
    return rows.map((row) => this.#summary(row));
  }

  #inState(state: ProblemState | undefined): SQL | undefined {
    if (state === undefined)
      return sql`(${problems.state} IN ('open', 'recurring') OR (${problems.state} = 'expected' AND ${problems.until} < ${Date.now()}))`;
    return eq(problems.state, state);
  }

  /** @throws not_found */
  show(fingerprint: string, days = 14): ProblemDetail {
    const row = this.#row(fingerprint);
    const from = Math.floor(Date.now() / DAY) * DAY - (days - 1) * DAY;
    const perDay = this.#sightings.countByDay(fingerprint, from);
    const by = (what: 'flow' | 'tool' | 'caller') => this.#sightings.countBy(fingerprint, what);
    return {
      ...this.#summary(row),
      finding: JSON.parse(row.finding) as ProblemDetail['finding'],
      flows: by('flow'),
      tools: by('tool'),
      callers: by('caller'),
      days: Array.from({ length: days }, (_, index) => ({
        from: iso(from + index * DAY),
        times: perDay.get(from / DAY + index) ?? 0,
      })),
      runs: this.#sightings.newest(fingerprint, 20).map(({ at, ...run }) => ({ ...run, at: iso(at) })),
      toolsChanged: row.server === null ? null : this.changedTools(row.server, row.firstAt),
    };
  }

  /** @throws not_found */
  judge(fingerprint: string, { state, until, note, by }: Verdict): ProblemDetail {
    this.#row(fingerprint);
    this.database
      .update(problems)
      .set({ state, until, note, by, changedAt: Date.now() })
      .where(eq(problems.fingerprint, fingerprint))
      .run();
    return this.show(fingerprint);
  }

  /** Runs in which it was seen, the newest first. */
  runsOf(fingerprint: string, most: number): string[] {
    return this.#sightings.newest(fingerprint, most).map(({ run }) => run);
  }

  count(): number {
    const row = this.database
      .select({ count: sql<number>`count(*)` })
      .from(problems)
      .where(and(ne(problems.severity, 'warning'), this.#inState(undefined)))
      .get();
    return Number(row?.count ?? 0);
  }

  has(fingerprint: string): boolean {
    return this.database.select().from(problems).where(eq(problems.fingerprint, fingerprint)).get() !== undefined;
  }

  /** A fingerprint by its beginning, as people write it. @throws not_found */
  named(beginning: string): string {
    const rows = this.database
      .select({ fingerprint: problems.fingerprint })
      .from(problems)
      .where(sql`substr(${problems.fingerprint}, 1, ${beginning.length}) = ${beginning}`)
      .limit(2)
      .all();
    if (rows.length === 1) return rows[0]!.fingerprint;
    const suggestion =
      rows.length > 1 ? 'Use more characters: several start like that.' : 'List them with "pindro problem list".';
    throw new PindroError('not_found', { what: 'problem', name: beginning, suggestion });
  }

  #row(fingerprint: string): Row {
    const row = this.database
      .select()
      .from(problems)
      .where(inArray(problems.fingerprint, [fingerprint]))
      .get();
    if (row) return row;
    throw new PindroError('not_found', {
      what: 'problem',
      name: fingerprint,
      suggestion: 'List them with "pindro problem list".',
    });
  }

  #summary(row: Row): ProblemSummary {
    const { title } = JSON.parse(row.finding) as Finding;
    const { fingerprint, code, severity, flow, times, firstRun, lastRun, sinceRevision, note, by } = row;
    const { rounds, tokens, money } = row;
    // What is expected until a day is open again after it.
    const isOver = row.state === 'expected' && row.until !== null && row.until < Date.now();
    return {
      ...{ id: fingerprint, code, severity: severity as Finding['severity'], title, flow, times, firstRun, lastRun },
      ...{ firstAt: iso(row.firstAt), lastAt: iso(row.lastAt), sinceRevision, note, by },
      waste: { rounds, tokens, money },
      state: (isOver ? 'open' : row.state) as ProblemState,
      until: row.until === null ? null : iso(row.until),
      changedAt: row.changedAt === null ? null : iso(row.changedAt),
    };
  }
}

const textOf = (value: unknown): string | null => (typeof value === 'string' ? value : null);
