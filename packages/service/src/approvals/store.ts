import {
  type ApprovalPort,
  type ApprovalRequest,
  type Decision,
  type JsonObject,
  orAborted,
  PindroError,
  sentence,
  validate,
} from '@pindro/core';
import { and, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { approvals } from './tables.js';

/** Timers hold at most so many milliseconds. */
const LONGEST = 2 ** 31 - 1;

export interface ApprovalRecord {
  request: ApprovalRequest;
  askedAt: number;
  until: number | null;
  decision: Decision['decision'] | null;
  by: string;
  note: string;
  decidedAt: number | null;
  /** What was sent instead, or what was asked for. */
  value: JsonObject | null;
}

type Row = typeof approvals.$inferSelect;

const read = ({ request, value, standing: _, ...row }: Row): ApprovalRecord => ({
  ...row,
  value: value === null ? null : (JSON.parse(value) as JsonObject),
  request: JSON.parse(request) as ApprovalRequest,
  decision: row.decision as ApprovalRecord['decision'],
});

/** Keeps what people are asked, and wakes the runs that wait for it. */
export class ApprovalStore implements ApprovalPort {
  readonly #waiting = new Map<string, (decision: Decision) => void>();
  /** Runs that have asked and may not have been answered. */
  readonly #asked: Set<string>;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {
    const open = database.select({ run: approvals.run }).from(approvals).where(isNull(approvals.decision)).all();
    this.#asked = new Set(open.map(({ run }) => run));
  }

  async ask(request: ApprovalRequest, { signal }: { signal: AbortSignal }): Promise<Decision> {
    const { run, path, until, standing = null } = request;
    const asked = this.database
      .insert(approvals)
      .values({ run, path, request: JSON.stringify(request), askedAt: Date.now(), until, standing })
      .onConflictDoNothing()
      .returning()
      .all();
    this.#asked.add(run);
    if (asked.length > 0) this.bus.changed('approval', run);
    const known = this.get(run, path);
    if (known.decision) return decisionOf(known);
    const key = keyOf(run, path);
    const stop = this.#expireAt(run, path, known.until);
    const decided = new Promise<Decision>((resolve) => this.#waiting.set(key, resolve));
    return orAborted(decided, signal).finally(() => {
      stop();
      this.#waiting.delete(key);
      if (signal.aborted && signal.reason?.code !== 'stopping') this.#withdraw(run, path);
    });
  }

  async standing(key: string): Promise<Decision | null> {
    const row = this.database
      .select()
      .from(approvals)
      .where(and(eq(approvals.standing, key), eq(approvals.decision, 'approved')))
      .orderBy(desc(approvals.decidedAt))
      .get();
    return row ? decisionOf(read(row)) : null;
  }

  /**
   * @param decision its value is held against the schema of what was asked
   * @throws not_found, approval_decided, input_refused
   */
  decide(run: string, path: string, decision: Decision): ApprovalRecord {
    if (decision.value) this.#requireFit(this.get(run, path), decision.value);
    const { value, ...rest } = decision;
    const changed = this.database
      .update(approvals)
      .set({ ...rest, ...(value && { value: JSON.stringify(value) }), decidedAt: Date.now() })
      .where(and(eq(approvals.run, run), eq(approvals.path, path), isNull(approvals.decision)))
      .returning()
      .all();
    const record = this.get(run, path);
    if (changed.length === 0) throw new PindroError('approval_decided', { decision: record.decision ?? '' });
    this.#waiting.get(keyOf(run, path))?.(decision);
    this.bus.changed('approval', run);
    return record;
  }

  #requireFit({ request }: ApprovalRecord, value: JsonObject): void {
    if (!request.schema)
      throw new PindroError('request_invalid', { why: 'Nothing can be changed of what is asked here' });
    const mistakes = validate(request.schema, value);
    if (mistakes.length === 0) return;
    const at = mistakes.map((mistake) => ({ ...mistake, at: `/value${mistake.at}` }));
    throw new PindroError('request_invalid', { why: sentence(mistakes) }, { at: at[0]!.at, mistakes: at });
  }

  get(run: string, path: string): ApprovalRecord {
    const row = this.database
      .select()
      .from(approvals)
      .where(and(eq(approvals.run, run), eq(approvals.path, path)))
      .get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'approval',
        name: `${run}/${path}`,
        suggestion: 'List them with "pindro approval list".',
      });
    return read(row);
  }

  /** Newest first; those that nobody has decided alone, or all. */
  list(open: boolean): ApprovalRecord[] {
    return this.database
      .select()
      .from(approvals)
      .where(open ? isNull(approvals.decision) : undefined)
      .orderBy(desc(approvals.askedAt))
      .limit(200)
      .all()
      .map(read);
  }

  count(): number {
    const row = this.database
      .select({ count: sql<number>`count(*)` })
      .from(approvals)
      .where(isNull(approvals.decision))
      .get();
    return Number(row?.count ?? 0);
  }

  /** The run has ended, perhaps while nobody ran it (a stop had cut it): nobody needs to decide any more. */
  runEnded(run: string): void {
    if (!this.#asked.delete(run)) return;
    const open = and(eq(approvals.run, run), isNull(approvals.decision));
    const withdrawn = this.database.delete(approvals).where(open).returning().all();
    if (withdrawn.length > 0) this.bus.changed('approval', run);
  }

  /** Lets go of what belongs to runs that are not kept any more. */
  forget(runs: string[]): void {
    this.database.delete(approvals).where(inArray(approvals.run, runs)).run();
  }

  #expireAt(run: string, path: string, until: number | null): () => void {
    if (until === null) return () => {};
    let timer: NodeJS.Timeout;
    const look = () => {
      const left = until - Date.now();
      if (left > 0) timer = setTimeout(look, Math.min(left, LONGEST)).unref();
      else if (this.get(run, path).decision === null) this.decide(run, path, { decision: 'expired', by: '', note: '' });
    };
    look();
    return () => clearTimeout(timer);
  }

  /** The run ended without the answer: nobody needs to decide any more. */
  #withdraw(run: string, path: string): void {
    this.database
      .delete(approvals)
      .where(and(eq(approvals.run, run), eq(approvals.path, path), isNull(approvals.decision)))
      .run();
    this.bus.changed('approval', run);
  }
}

const decisionOf = ({ decision, by, note, value }: ApprovalRecord): Decision => ({
  ...{ decision: decision!, by, note },
  ...(value && { value }),
});
const keyOf = (run: string, path: string) => `${run}/${path}`;
