import { mayUse, type Role, resourceNamed } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import { desc, eq, lt } from 'drizzle-orm';
import { type Clocks, PLAIN_CLOCKS } from '../platform/clock.js';
import type { Database } from '../platform/database/open.js';
import type { Bus, Gather, Thing } from '../platform/events.js';
import { randomText } from '../platform/settings.js';
import type { Authority } from '../policy/authority.js';
import { type PutAside, removals, type TakenRows } from './tables.js';

/** How long a removal can be undone, in milliseconds. */
const KEPT = 10 * 60_000;
const TIDY_EVERY = 30_000;

export interface Removal {
  id: string;
  what: Thing;
  name: string;
  by: string;
  removedAt: number;
  /** Time until which it can be undone, in milliseconds since the epoch. */
  until: number;
  /** Who may put it back. */
  needs: Role;
}

type Needed = 'operator' | 'builder' | 'owner';
/** The least role that restores one, if removing this one requires no higher one. */
const neededFor = (what: Thing): Needed => {
  const role = resourceNamed(what)?.role ?? 'builder';
  return role === 'viewer' ? 'operator' : role;
};

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

/** Removes things with everything that belongs to them, so that they can be restored. */
export class Removals {
  #timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly clocks: Clocks = PLAIN_CLOCKS,
  ) {}

  start(): void {
    this.#tidy();
    this.#timer = setInterval(() => this.#tidy(), TIDY_EVERY).unref();
  }

  close(): void {
    if (this.#timer) clearInterval(this.#timer);
  }

  /** @param gather names the rows that the thing is; what goes with it is named by whoever hears of the removal */
  remove(what: Thing, name: string, by: string, gather: (parts: Gather) => void): Removal {
    const id = randomText(8).replaceAll(/[-_]/g, 'x');
    const rows: TakenRows[] = [];
    const aside: PutAside[] = [];
    const tells: [Thing, string][] = [[what, name]];
    let needs: Needed = neededFor(what);
    const parts: Gather = {
      take: (table, where) => {
        const { sql, values } = conditionOf(where);
        const taken = this.database.driver.prepare(`SELECT * FROM ${quote(table)}${sql}`).all(...values);
        this.database.driver.prepare(`DELETE FROM ${quote(table)}${sql}`).run(...values);
        if (taken.length > 0) rows.push({ table, rows: taken as TakenRows['rows'] });
        return taken.length;
      },
      putAside: (table, column, from) => {
        const one = { table, column, from, to: `removed ${id}` };
        this.#call(one, one.from, one.to);
        aside.push(one);
      },
      needs: (role) => {
        needs = role;
      },
      tell: (other, named) => void tells.push([other, named]),
    };
    const removedAt = this.clocks.expiry();
    this.database.driver
      .transaction(() => {
        gather(parts);
        this.bus.emit('removing', what, name, parts);
        this.database.insert(removals).values({ id, what, name, by, removedAt, rows, aside, tells, needs }).run();
        for (const [other, named] of tells) this.bus.changed(other, named);
      })
      .immediate();
    return { id, what, name, by, removedAt, until: removedAt + KEPT, needs };
  }

  /** What can still be restored, newest first. */
  list(): Removal[] {
    return this.database
      .select()
      .from(removals)
      .orderBy(desc(removals.removedAt))
      .all()
      .map(({ id, what, name, by, removedAt, needs }) => ({
        ...{ id, what: what as Thing, name, by, removedAt, needs },
        until: removedAt + KEPT,
      }))
      .filter(({ until }) => until > this.clocks.expiry());
  }

  /**
   * Puts a thing back as it was, on the authority of somebody who could create it.
   * @throws not_found, role_too_low, already_there when something else took its place
   */
  restoreRemoved(id: string, { name, role }: Authority): Removal {
    const removal = this.list().find((one) => one.id === id);
    const row = this.database.select().from(removals).where(eq(removals.id, id)).get();
    if (!removal || !row)
      throw new PindroError('not_found', {
        what: 'removal that can be undone',
        name: id,
        suggestion: 'Removals can be undone for ten minutes. List them with "pindro undo --list".',
      });
    if (!mayUse(role, removal.needs)) throw new PindroError('role_too_low', { name, role, needed: removal.needs });
    try {
      this.database.driver
        .transaction(() => {
          for (const one of row.aside) this.#call(one, one.to, one.from);
          for (const { table, rows } of row.rows) this.#insert(table, rows);
          this.database.delete(removals).where(eq(removals.id, id)).run();
          // What stores remember of before holds no more.
          this.bus.emit('undone');
          for (const [what, name] of row.tells) this.bus.changed(what as Thing, name);
        })
        .immediate();
    } catch (error) {
      // One that has taken its name since then, or its place.
      if (/UNIQUE constraint|already (?:exists|another)/i.test((error as Error).message))
        throw new PindroError('already_there', { what: removal.what, name: removal.name }, { cause: error });
      throw error;
    }
    return removal;
  }

  #insert(table: string, rows: TakenRows['rows']): void {
    for (const row of rows) {
      const columns = Object.keys(row);
      this.database.driver
        .prepare(
          `INSERT INTO ${quote(table)} (${columns.map(quote).join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`,
        )
        .run(...columns.map((column) => row[column]));
    }
  }

  /** Calls what is put aside by another name: the rows in a column, or a table. */
  #call({ table, column }: PutAside, from: string, to: string): void {
    if (column === null) this.database.driver.exec(`ALTER TABLE ${quote(from)} RENAME TO ${quote(to)}`);
    else
      this.database.driver
        .prepare(`UPDATE ${quote(table)} SET ${quote(column)} = ? WHERE ${quote(column)} = ?`)
        .run(to, from);
  }

  /** Deletes what can no longer be restored. */
  #tidy(): void {
    const over = this.database
      .select()
      .from(removals)
      .where(lt(removals.removedAt, this.clocks.deletion() - KEPT))
      .all();
    for (const { id, aside } of over)
      this.database.driver
        .transaction(() => {
          for (const { table, column, to } of aside)
            if (column === null) this.database.driver.exec(`DROP TABLE ${quote(to)}`);
            else this.database.driver.prepare(`DELETE FROM ${quote(table)} WHERE ${quote(column)} = ?`).run(to);
          this.database.delete(removals).where(eq(removals.id, id)).run();
        })
        .immediate();
  }
}

function conditionOf(where: Record<string, unknown>): { sql: string; values: unknown[] } {
  const columns = Object.keys(where);
  return {
    sql: ` WHERE ${columns.map((column) => `${quote(column)} = ?`).join(' AND ')}`,
    values: Object.values(where),
  };
}
