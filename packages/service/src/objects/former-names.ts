import { PindroError } from '@pindro/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus, Thing } from '../platform/events.js';
import { formerNames } from './tables.js';

/** Names that things went by. Whoever uses one is led to the thing as it is called now. */
export class FormerNames {
  #known: Map<string, string> | null = null;

  constructor(
    private readonly database: Database,
    bus: Bus,
  ) {
    bus.on('undone', () => {
      this.#known = null;
    });
    bus.on('removing', (what, name, { take }) => {
      take('former_names', { what, name });
      this.#known = null;
    });
    // Removing also removes references to what is removed.
    bus.on('changed', (what) => {
      if (what === 'entry') this.#known = null;
    });
  }

  /** What the thing of a name is called now: the same where it never had another. */
  present(what: Thing, name: string): string {
    return this.#all().get(keyOf(what, name)) ?? name;
  }

  /** Every name that a thing goes or went by, the present one first. */
  namesOf(what: Thing, name: string): string[] {
    const present = this.present(what, name);
    return [present, ...this.#of(what, (row) => row.name === present)];
  }

  /** All names that some thing of a kind went by. */
  all(what: Thing): string[] {
    return this.#of(what, () => true);
  }

  #of(what: Thing, fits: (row: { name: string }) => boolean): string[] {
    return [...this.#all()]
      .filter(([key, name]) => key.startsWith(`${what}/`) && fits({ name }))
      .map(([key]) => key.slice(what.length + 1));
  }

  /** The old name leads to the new one from now on; a name that it takes up again is its own. */
  renamed(what: Thing, from: string, to: string): void {
    this.database
      .delete(formerNames)
      .where(and(eq(formerNames.what, what), eq(formerNames.former, to)))
      .run();
    this.database
      .update(formerNames)
      .set({ name: to })
      .where(and(eq(formerNames.what, what), eq(formerNames.name, from)))
      .run();
    this.database.insert(formerNames).values({ what, former: from, name: to }).run();
    this.#known = null;
  }

  /** All of them: present names by former ones, by kind of thing. */
  written(): Record<string, Record<string, string>> {
    const rows = this.database.select().from(formerNames).orderBy(asc(formerNames.what), asc(formerNames.former)).all();
    const all: Record<string, Record<string, string>> = {};
    for (const { what, former, name } of rows) (all[what] ??= {})[former] = name;
    return all;
  }

  /** What a file says of a name that a thing went by. */
  keepWritten(what: Thing, former: string, name: string): void {
    this.database
      .insert(formerNames)
      .values({ what, former, name })
      .onConflictDoUpdate({ target: [formerNames.what, formerNames.former], set: { name } })
      .run();
    this.#known = null;
  }

  /** Nothing else may take a name that leads somewhere. @throws already_there */
  requireFree(what: Thing, words: string, name: string, owner?: string): void {
    const present = this.present(what, name);
    if (present !== name && present !== owner)
      throw new PindroError('already_there', {
        what: `${words} with this former name: "${present}"`,
        name,
      });
  }

  #all(): Map<string, string> {
    this.#known ??= new Map(
      this.database
        .select()
        .from(formerNames)
        .all()
        .map((row) => [keyOf(row.what, row.former), row.name]),
    );
    return this.#known;
  }
}

const keyOf = (what: string, name: string) => `${what}/${name}`;
