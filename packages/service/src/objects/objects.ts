import { capital, resourceNamed } from '@pindro/contract';
import { PindroError, type References } from '@pindro/core';
import type { Database } from '../platform/database/open.js';
import type { Bus, Gather, Thing } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import { wordsOf } from '../platform/resources.js';
import type { FormerNames } from './former-names.js';
import type { Removal, Removals } from './removals.js';

interface Parts {
  database: Database;
  bus: Bus;
  former: FormerNames;
  removals: Removals;
  /** What calling a thing by a new name changes in drafts. */
  following(
    sort: keyof References,
    names: readonly string[],
    to: string,
    own?: string,
  ): Promise<{ flows: string[]; keep(): void }>;
  usesOf(what: Thing, name: string): string[];
}

/** A store of things that have names. */
export interface Named {
  names(): string[];
  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void;
  /** @throws request_invalid where a name is not fit; by default names follow the common rule */
  requireName?(name: string): void;
}

/** What is done with every thing that people make in one way: giving it another name, and taking it out. */
export class Objects {
  constructor(private readonly parts: Parts) {}

  usesOf(what: Thing, name: string): string[] {
    return this.parts.usesOf(what, name);
  }

  /**
   * Renames a thing. References follow, and the old name still works.
   * @param store the store of the row; flows rename themselves
   * @returns updated references, as text
   */
  async rename(what: Thing, from: string, to: string, store: Named): Promise<{ name: string; changed: string[] }> {
    const { database, bus, former, following, usesOf } = this.parts;
    if (store.requireName) store.requireName(to);
    else requireName(to, wordsOf(what));
    if (from === to) return { name: to, changed: [] };
    former.requireFree(what, wordsOf(what), to, from);
    const changed = usesOf(what, from);
    const sort = resourceNamed(what)?.inSteps;
    const names = former.namesOf(what, from);
    const own = what === 'flow' ? from : undefined;
    const follow = sort && (await following(sort, names, to, own));
    database.driver
      .transaction(() => {
        // Somebody gave it another one while the drafts were looked through.
        const now = former.present(what, from);
        if (now !== from)
          throw new PindroError('not_found', {
            what: wordsOf(what),
            name: from,
            suggestion: `Its present name is "${now}".`,
          });
        if (store.names().includes(to)) throw new PindroError('already_there', { what: wordsOf(what), name: to });
        store.callOtherwise(from, to);
        if (what !== 'flow' && what !== 'endpoint') former.renamed(what, from, to);
        follow?.keep();
        bus.emit('renamed', what, from, to);
        bus.changed(what, to);
      })
      .immediate();
    return { name: to, changed };
  }

  /**
   * Removes a thing; it can be restored for ten minutes.
   * @param force even if something uses it
   * @throws in_use
   */
  remove(
    what: Thing,
    name: string,
    { by, force, words }: { by: string; force: boolean; words?: string },
    gather: (parts: Gather) => void = () => {},
  ): { done: true; removal: PresentedRemoval } {
    const users = force ? [] : this.parts.usesOf(what, name);
    if (users.length > 0)
      throw new PindroError(
        'in_use',
        { what: capital(wordsOf(what)), name: words ?? name, users: users.join(', ') },
        { details: { users } },
      );
    return { done: true, removal: present(this.parts.removals.remove(what, name, by, gather)) };
  }
}

export type PresentedRemoval = Omit<Removal, 'removedAt' | 'until' | 'needs'> & { removedAt: string; until: string };
export const present = ({ needs: _, ...removal }: Removal): PresentedRemoval => ({
  ...removal,
  removedAt: new Date(removal.removedAt).toISOString(),
  until: new Date(removal.until).toISOString(),
});
