import {
  type ApprovalPort,
  type ApprovalRequest,
  type Decision,
  GRANTS,
  type Grant,
  humanDuration,
  isObject,
  type JsonObject,
  orAborted,
  PindroError,
  sentence,
  validate,
} from '@pindro/core';
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { type Clocks, PLAIN_CLOCKS } from '../platform/clock.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { type StandingApproval, StandingApprovals } from './standing.js';
import { approvals } from './tables.js';

/** The clock may be changed: check again after this many milliseconds. */
const LOOK_EVERY = 60_000;

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
  /** What an approval covers, and until when. */
  grant: Grant | null;
  grantedUntil: number | null;
}

/** What somebody decides. @see Decision */
export interface Deciding {
  decision: 'approved' | 'refused';
  note: string;
  value?: JsonObject | undefined;
  /** Scope of the approval; that of the rule if omitted. */
  grant?: Grant | undefined;
  /** How long it covers further calls, in milliseconds; as long as the rule allows if omitted. */
  holds?: number | undefined;
}

type Row = typeof approvals.$inferSelect;

const read = ({ request, value, standing: _, grant, ...row }: Row): ApprovalRecord => ({
  ...row,
  grant: grant as Grant | null,
  value: value === null ? null : (JSON.parse(value) as JsonObject),
  request: JSON.parse(request) as ApprovalRequest,
  decision: row.decision as ApprovalRecord['decision'],
});

/** Keeps what people are asked, and wakes the runs that wait for it. */
export class ApprovalStore implements ApprovalPort {
  readonly #waiting = new Map<string, (decision: Decision) => void>();
  readonly standingOnes: StandingApprovals;
  /** Runs that have asked and may not have been answered. */
  readonly #asked: Set<string>;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly clocks: Clocks = PLAIN_CLOCKS,
  ) {
    this.standingOnes = new StandingApprovals(database, clocks);
    const open = database.select({ run: approvals.run }).from(approvals).where(isNull(approvals.decision)).all();
    this.#asked = new Set(open.map(({ run }) => run));
  }

  async ask(request: ApprovalRequest, { signal }: { signal: AbortSignal }): Promise<Decision> {
    const { run, path, until } = request;
    const asked = this.database
      .insert(approvals)
      .values({ run, path, request: JSON.stringify(request), askedAt: Date.now(), until })
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

  async standing(keys: readonly string[]): Promise<Decision | null> {
    return this.standingOnes.find(keys);
  }

  /**
   * Decides on somebody's behalf.
   * @param by the caller who decides: a person or the holder of a key
   * @throws not_found, approval_decided, approval_not_yours, approval_own, request_invalid
   */
  decide(run: string, path: string, given: Deciding, by: string): ApprovalRecord {
    const asked = this.get(run, path);
    if (asked.decision !== null) throw new PindroError('approval_decided', { decision: asked.decision });
    requireMayDecide(asked, given, by);
    if (given.value) this.#requireFit(asked, given.value);
    const { decision, note, value } = given;
    const grant = grantOf(asked, given);
    const at = Date.now();
    const { longest = 0 } = asked.request.grants ?? {};
    const until = grant === 'call' ? undefined : this.clocks.expiry() + Math.min(given.holds ?? longest, longest);
    return this.#settle(run, path, {
      ...{ decision, by, note, at, grant },
      ...(value && { value }),
      ...(until !== undefined && { grantedUntil: until }),
    });
  }

  /** @throws approval_decided */
  #settle(run: string, path: string, settled: Decision & { at: number }): ApprovalRecord {
    const { value, at, grant, ...rest } = settled;
    const changed = this.database.driver
      .transaction(() => {
        const rows = this.database
          .update(approvals)
          .set({ ...rest, ...(grant && { grant }), ...(value && { value: JSON.stringify(value) }), decidedAt: at })
          .where(and(eq(approvals.run, run), eq(approvals.path, path), isNull(approvals.decision)))
          .returning()
          .all();
        const [row] = rows;
        if (row && settled.decision === 'approved' && settled.grantedUntil !== undefined)
          this.standingOnes.grant(read(row).request, settled, grant ?? 'call', settled.grantedUntil);
        return rows.length;
      })
      .immediate();
    const record = this.get(run, path);
    if (changed === 0) throw new PindroError('approval_decided', { decision: record.decision ?? '' });
    this.#waiting.get(keyOf(run, path))?.(settled);
    this.bus.changed('approval', run);
    return record;
  }

  #requireFit({ request }: ApprovalRecord, value: JsonObject): void {
    if (!request.schema)
      throw new PindroError('request_invalid', { why: 'The values of this approval cannot be changed' });
    const mistakes = [...unknownArguments(request, value), ...validate(request.schema, value)];
    if (mistakes.length === 0) return;
    const at = mistakes.map((mistake) => ({ ...mistake, at: `/value${mistake.at}` }));
    throw new PindroError('request_invalid', { why: sentence(mistakes) }, { at: at[0]!.at, mistakes: at });
  }

  /** Revokes an approval that covers further calls. @throws not_found */
  revoke(id: string, by: string): StandingApproval {
    const revoked = this.standingOnes.revoke(id, by);
    this.bus.changed('approval', revoked.run);
    return revoked;
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

  /** What waits for one caller to decide, oldest first. */
  openOf(caller: string): ApprovalRequest[] {
    return this.database
      .select()
      .from(approvals)
      .where(
        and(
          isNull(approvals.decision),
          eq(sql`json_extract(${approvals.request}, '$.caller')`, caller),
          eq(sql`json_extract(${approvals.request}, '$.by')`, 'caller'),
        ),
      )
      .orderBy(asc(approvals.askedAt))
      .limit(50)
      .all()
      .map((row) => read(row).request);
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

  /** Deletes data of runs that are no longer retained. */
  forget(runs: string[]): void {
    this.database.delete(approvals).where(inArray(approvals.run, runs)).run();
  }

  #expireAt(run: string, path: string, until: number | null): () => void {
    if (until === null) return () => {};
    let timer: NodeJS.Timeout;
    const look = () => {
      const left = until - this.clocks.expiry();
      if (left > 0) timer = setTimeout(look, Math.min(left, LOOK_EVERY)).unref();
      else if (this.get(run, path).decision === null)
        this.#settle(run, path, { decision: 'expired', by: '', note: '', at: Date.now() });
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

const decisionOf = ({ decision, by, note, value, decidedAt, grant, grantedUntil }: ApprovalRecord): Decision => ({
  ...{ decision: decision!, by, note },
  ...(value && { value }),
  ...(decidedAt !== null && { at: decidedAt }),
  ...(grant !== null && { grant }),
  ...(grantedUntil !== null && { grantedUntil }),
});

/** @throws approval_not_yours, approval_own */
function requireMayDecide({ request }: ApprovalRecord, { decision }: Deciding, by: string): void {
  if (request.by === 'caller' && by !== request.caller)
    throw new PindroError('approval_not_yours', { caller: request.caller, name: by });
  if (request.fourEyes && decision === 'approved' && by === request.caller)
    throw new PindroError('approval_own', { name: by });
}

/** What an approval covers. @throws request_invalid where the rule does not allow that much */
function grantOf({ request: { grants } }: ApprovalRecord, { decision, grant, holds }: Deciding): Grant {
  if (decision === 'refused') return 'call';
  const allowed = grants?.allowed ?? ['call'];
  const wanted = grant ?? grants?.default ?? 'call';
  if (!allowed.includes(wanted)) {
    const widest = GRANTS.findLast((one) => allowed.includes(one))!;
    const why = `This approval may cover at most "${widest}", not "${wanted}"; the builder sets this limit with may_grant`;
    throw new PindroError('request_invalid', { why }, { at: '/grant' });
  }
  if (holds !== undefined && wanted === 'call')
    throw new PindroError('request_invalid', { why: 'An approval of one call has no duration' }, { at: '/holds' });
  if (holds !== undefined && grants && holds > grants.longest) {
    const why = `This approval may be valid for at most ${humanDuration(grants.longest)}`;
    throw new PindroError('request_invalid', { why }, { at: '/holds' });
  }
  return wanted;
}

/** Arguments that the tool does not have, and those that the builder set and somebody changed. */
function unknownArguments({ tool, schema, fixed = [], facts }: ApprovalRequest, value: JsonObject) {
  const { properties, additionalProperties, patternProperties } = schema ?? {};
  const isOpen = additionalProperties === true || isObject(additionalProperties) || isObject(patternProperties);
  const known = isObject(properties) ? Object.keys(properties) : [];
  const odd = isOpen ? [] : Object.keys(value).filter((name) => !known.includes(name) && !(name in facts));
  const forced = fixed.filter((name) => JSON.stringify(value[name]) !== JSON.stringify(facts[name]));
  return [
    ...odd.map((name) => ({ at: `/${name}`, message: `${tool ?? 'This question'} has no argument "${name}"` })),
    ...forced.map((name) => ({ at: `/${name}`, message: `"${name}" is set by the builder and cannot be changed` })),
  ];
}
const keyOf = (run: string, path: string) => `${run}/${path}`;
