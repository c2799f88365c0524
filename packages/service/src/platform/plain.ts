import type { Hit, PlainDescriptor, ResourceName } from '@pindro/contract';
import { didYouMean, PindroError } from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { type Capability, defineCapability } from './capability.js';
import type { Database } from './database/open.js';
import type { Bus } from './events.js';
import { hitOf, type PlainStore, type SavedValue, type ServedResource } from './resources.js';

/** More are not kept: a list of them would help nobody. */
const MOST = 200;

/** The table of a plain resource. Its migration creates it. @param name in the database */
export const plainTable = (name: string) =>
  sqliteTable(name, {
    name: text('name').primaryKey(),
    fields: text('fields', { mode: 'json' }).$type<Record<string, unknown>>().notNull(),
    by: text('by').notNull(),
    at: integer('at').notNull(),
  });
type PlainTable = ReturnType<typeof plainTable>;

/** What a plain resource asks the register of former names. */
interface FormerRegister {
  present(what: ResourceName, name: string): string;
  requireFree(what: ResourceName, words: string, name: string): void;
}

/** A resource that is a name with fields, which its descriptor describes. */
class PlainResource implements ServedResource, PlainStore {
  readonly plain = this;

  constructor(
    readonly is: PlainDescriptor,
    private readonly table: PlainTable,
    tableName: string,
    private readonly parts: { database: Database; bus: Bus; former: FormerRegister },
  ) {
    parts.bus.on('removing', (what, name, { take }) => {
      if (what === is.name) take(tableName, { name });
    });
  }

  list(): SavedValue[] {
    const rows = this.parts.database.select().from(this.table).orderBy(asc(this.table.name)).all();
    return rows.map(({ name, fields, by, at }) => ({ ...fields, name, by, at: new Date(at).toISOString() }));
  }

  names(): string[] {
    return this.list().map(({ name }) => name);
  }

  nameOf(given: string): string {
    return this.find(given).name;
  }

  find(name: string): SavedValue {
    const present = this.parts.former.present(this.is.name as ResourceName, name);
    const found = this.list().find((one) => one.name === present);
    if (found) return found;
    const { words, plural } = this.is;
    const suggestion = didYouMean(name, this.names()) || `There are ${this.names().length || 'no'} ${plural}.`;
    throw new PindroError('not_found', { what: words, name, suggestion });
  }

  /** One of that name is changed. @throws request_invalid where the name is not fit, or there are too many */
  save(given: string, fields: Record<string, unknown>, by: string): SavedValue {
    const name = this.parts.former.present(this.is.name as ResourceName, given);
    const isNew = !this.names().includes(name);
    if (isNew) this.#requireRoom(name);
    const values = { fields, by, at: Date.now() };
    this.parts.database
      .insert(this.table)
      .values({ name, ...values })
      .onConflictDoUpdate({ target: this.table.name, set: values })
      .run();
    this.#changed(name);
    return this.find(name);
  }

  copy(from: string, to: string, { name: by }: { name: string }): void {
    const { name: _, by: __, at: ___, ...fields } = this.find(from);
    if (this.names().includes(to)) throw new PindroError('already_there', { what: this.is.words, name: to });
    this.save(to, fields, by);
  }

  callOtherwise(from: string, to: string): void {
    this.parts.database.update(this.table).set({ name: to }).where(eq(this.table.name, from)).run();
  }

  requireName(name: string): void {
    if (/^[^\p{C}]{1,60}$/u.test(name) && name === name.trim()) return;
    throw new PindroError('request_invalid', {
      why: `The name of a ${this.is.words} must have 1 to 60 characters`,
    });
  }

  *hits(): Generator<Hit> {
    for (const { name } of this.list()) yield hitOf(this.is, { name, about: this.is.words });
  }

  #requireRoom(name: string): void {
    this.requireName(name);
    this.parts.former.requireFree(this.is.name as ResourceName, this.is.words, name);
    if (this.names().length >= MOST)
      throw new PindroError('request_invalid', {
        why: `There are ${MOST} ${this.is.plural}, the limit; remove one first`,
      });
  }

  #changed(name: string): void {
    this.parts.bus.changed(this.is.name as ResourceName, name);
  }
}

/**
 * The capability of a plain resource: its routes, removal, renaming, search and files derive from the descriptor.
 * @param table name of its table, with the columns of `plainTable`
 */
export const plainCapability = (descriptor: PlainDescriptor, table: string): Capability =>
  defineCapability({
    name: descriptor.plural,
    needs: ['config', 'former'],
    resources: ({ config, bus, former }) => [
      new PlainResource(descriptor, plainTable(table), table, { database: config, bus, former }),
    ],
  });
