import { createHash } from 'node:crypto';
import { type ApprovalRequest, type Decision, type Grant, PindroError } from '@pindro/core';
import { and, desc, eq, gt, inArray, isNull, lt } from 'drizzle-orm';
import { type Clocks, PLAIN_CLOCKS } from '../platform/clock.js';
import type { Database } from '../platform/database/open.js';
import { randomText } from '../platform/settings.js';
import { standingApprovals } from './tables.js';

export type StandingApproval = Omit<typeof standingApprovals.$inferSelect, 'key'>;

/** How long an approval is listed after it ended, in milliseconds. */
const LISTED = 30 * 24 * 60 * 60_000;
/** What an approval covers may be long: the schema of a tool, or a whole flow. */
const hashOf = (key: string) => createHash('sha256').update(key).digest('base64url');

/** Approvals that cover further calls of a conversation or a caller, each until it expires or is revoked. */
export class StandingApprovals {
  constructor(
    private readonly database: Database,
    private readonly clocks: Clocks = PLAIN_CLOCKS,
  ) {}

  /**
   * Records what an approver granted beyond one call. Must run in the transaction that records the decision.
   * @param until when it expires, in milliseconds since the epoch
   */
  grant(
    { run, path, flow, caller, tool = '', grants }: ApprovalRequest,
    decision: Decision,
    grant: Grant,
    until: number,
  ) {
    if (grant === 'call' || !grants) return;
    const now = Date.now();
    this.database
      .delete(standingApprovals)
      .where(lt(standingApprovals.until, this.clocks.deletion() - LISTED))
      .run();
    this.database
      .insert(standingApprovals)
      .values({
        ...{ id: `a${randomText(10).replaceAll(/[-_]/g, 'x')}`, key: hashOf(grants.keys[grant]), grant, flow, tool },
        ...{ origin: grants.origin, caller, run, path, by: decision.by, note: decision.note, at: now, until },
      })
      .run();
  }

  /** The newest approval that covers one of these keys, or null. */
  find(keys: readonly string[]): Decision | null {
    const { key, revokedAt, until, at } = standingApprovals;
    const row = this.database
      .select()
      .from(standingApprovals)
      .where(and(inArray(key, keys.map(hashOf)), isNull(revokedAt), gt(until, this.clocks.expiry())))
      .orderBy(desc(at))
      .get();
    if (!row) return null;
    return { decision: 'approved', by: row.by, note: row.note, at: row.at, grant: row.grant, grantedUntil: row.until };
  }

  /** Newest first. @param all includes recently expired and revoked ones */
  list(all: boolean): (StandingApproval & { isValid: boolean })[] {
    const now = this.clocks.expiry();
    const { revokedAt, until, at } = standingApprovals;
    return this.database
      .select()
      .from(standingApprovals)
      .where(all ? undefined : and(isNull(revokedAt), gt(until, this.clocks.expiry())))
      .orderBy(desc(at))
      .limit(500)
      .all()
      .map(({ key: _, ...row }) => ({ ...row, isValid: row.revokedAt === null && row.until > now }));
  }

  /** @throws not_found */
  revoke(id: string, by: string): StandingApproval {
    const { id: own, revokedAt } = standingApprovals;
    this.database
      .update(standingApprovals)
      .set({ revokedAt: Date.now(), revokedBy: by })
      .where(and(eq(own, id), isNull(revokedAt)))
      .run();
    const row = this.database.select().from(standingApprovals).where(eq(own, id)).get();
    if (row) return row;
    const suggestion = 'List them with "pindro approval grants".';
    throw new PindroError('not_found', { what: 'standing approval', name: id.slice(0, 80), suggestion });
  }
}
