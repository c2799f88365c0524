import type { ProposalSummary } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import { and, desc, eq, inArray, notInArray, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { randomText } from '../platform/settings.js';
import { proposals } from './tables.js';

/** Maximum number of pending proposals per key. */
const OPEN_PER_KEY = 20;
/** Maximum number of stored decided proposals. */
const SETTLED = 200;

export type Proposal = typeof proposals.$inferSelect;
export type NewProposal = Pick<Proposal, 'flow' | 'text' | 'why' | 'key' | 'caller' | 'client'>;

/** What assistants would have changed. Nothing happens to a flow before a person takes it. */
export class ProposalStore {
  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {
    bus.on('renamed', (what, from, to) => {
      if (what === 'flow') database.update(proposals).set({ flow: to }).where(eq(proposals.flow, from)).run();
    });
  }

  list(): Proposal[] {
    return this.database.select().from(proposals).orderBy(desc(proposals.createdAt)).all();
  }

  get(id: string): Proposal {
    const row = this.database.select().from(proposals).where(eq(proposals.id, id)).get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'proposal',
        name: id,
        suggestion: 'List them with "pindro workshop proposals".',
      });
    return row;
  }

  /** Keeps a proposal. Another one of the same key for the same flow that is still open makes way for it. */
  add(given: NewProposal): Proposal {
    // By name, so that a rotated key continues.
    const whose = and(eq(proposals.key, given.key), eq(proposals.caller, given.caller));
    const own = and(whose, eq(proposals.state, 'open'));
    const id = `p${randomText(10).replaceAll(/[-_]/g, 'x')}`;
    this.database.driver
      .transaction(() => {
        this.database
          .delete(proposals)
          .where(and(own, eq(proposals.flow, given.flow)))
          .run();
        const { open } = this.database.select({ open: sql<number>`count(*)` }).from(proposals).where(own).get()!;
        if (Number(open) >= OPEN_PER_KEY)
          throw new PindroError('request_invalid', {
            why: `${OPEN_PER_KEY} proposals of this key are pending, the limit`,
          });
        this.database
          .insert(proposals)
          .values({ id, ...given, createdAt: Date.now(), state: 'open' })
          .run();
      })
      .immediate();
    this.bus.changed('workshop', id);
    return this.get(id);
  }

  /** @throws request_invalid when somebody settled it already */
  requireOpen(id: string): Proposal {
    const proposal = this.get(id);
    if (proposal.state !== 'open')
      throw new PindroError('request_invalid', {
        why: `The proposal was already ${proposal.state}, by ${proposal.settledBy}`,
      });
    return proposal;
  }

  settle(id: string, state: 'taken' | 'declined', { by, note }: { by: string; note: string }): Proposal {
    this.requireOpen(id);
    this.database
      .update(proposals)
      .set({ state, note, settledBy: by, settledAt: Date.now() })
      .where(eq(proposals.id, id))
      .run();
    this.#forgetOld();
    this.bus.changed('workshop', id);
    return this.get(id);
  }

  #forgetOld(): void {
    const settled = inArray(proposals.state, ['taken', 'declined']);
    const kept = this.database
      .select({ id: proposals.id })
      .from(proposals)
      .where(settled)
      .orderBy(desc(proposals.settledAt))
      .limit(SETTLED)
      .all()
      .map(({ id }) => id);
    this.database
      .delete(proposals)
      .where(and(settled, notInArray(proposals.id, kept)))
      .run();
  }
}

const iso = (moment: number) => new Date(moment).toISOString();

/** @param fresh whether there is no flow of that name */
export function summariseProposal(proposal: Proposal, fresh: boolean): ProposalSummary {
  const { text: _, createdAt, settledAt, ...rest } = proposal;
  return { ...rest, fresh, createdAt: iso(createdAt), settledAt: settledAt === null ? null : iso(settledAt) };
}
