import type { ColumnType, TableSummary } from '@pindro/contract';
import { didYouMean, ownOf, PindroError } from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import { alterColumns, type ColumnChange, requireColumns } from './alter.js';
import { type Column, quote, STORAGE } from './column.js';
import { tables } from './tables.js';

const dataTable = (name: string) => quote(dataName(name));
/** The table of SQLite that holds the rows of a table. */
export const dataName = (name: string) => `data_${name}`;

/** Which tables there are, and their columns. */
export class TableDefinitions {
  readonly #known = new Map<string, { columns: Column[]; owner: string | null }>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly former: FormerNames,
  ) {
    bus.on('undone', () => this.#known.clear());
    bus.on('removing', (what, name, { take, putAside, tell }) => {
      if (what !== 'table') return;
      take('tables', { name });
      putAside(dataTable(name), null, dataName(name));
      tell('columns', name);
      this.#known.clear();
    });
  }

  /** What the table of a name, or a former one, is called now. */
  nameOf(given: string): string {
    return this.former.present('table', given);
  }

  namesOf(given: string): string[] {
    return this.former.namesOf('table', given);
  }

  /** The table of SQLite that holds its rows, quoted. @throws not_found */
  data(given: string): string {
    this.table(given);
    return dataTable(this.nameOf(given));
  }

  names(): string[] {
    return this.database
      .select({ name: tables.name })
      .from(tables)
      .orderBy(asc(tables.name))
      .all()
      .map(({ name }) => name);
  }

  list(): TableSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(given: string): TableSummary {
    const name = this.nameOf(given);
    const table = this.table(name);
    const { count } = this.database.driver.prepare(`SELECT count(*) AS count FROM ${this.data(name)}`).get() as {
      count: number;
    };
    return { name, ...table, rows: Number(count) };
  }

  /** The columns of every table, under former names too. */
  allColumns(): Record<string, Column[]> {
    return Object.fromEntries([...this.names(), ...this.former.all('table')].map((name) => [name, this.columns(name)]));
  }

  columns(name: string): Column[] {
    return this.table(name).columns;
  }

  table(given: string): { columns: Column[]; owner: string | null } {
    const name = this.nameOf(given);
    const known = this.#known.get(name);
    if (known) return known;
    const row = this.database.select().from(tables).where(eq(tables.name, name)).get();
    if (!row) throw new PindroError('not_found', { what: 'table', name, suggestion: didYouMean(name, this.names()) });
    const table = { columns: row.columns as Column[], owner: row.owner };
    this.#known.set(name, table);
    return table;
  }

  /** @param owner the column that holds the caller a row belongs to, where callers are kept apart */
  create(name: string, types: Record<string, ColumnType>, owner: string | null = null): void {
    this.#requireFree(name);
    const columns = Object.entries(types).map(([column, type]): Column => ({ name: column, type }));
    requireColumns(columns, owner);
    const definitions = columns.map((column) => `${quote(column.name)} ${STORAGE[column.type].sql}`).join(', ');
    this.database.driver
      .transaction(() => {
        this.database.driver.exec(
          `CREATE TABLE ${dataTable(name)} (id INTEGER PRIMARY KEY AUTOINCREMENT, ${definitions})`,
        );
        this.database.insert(tables).values({ name, columns, owner, createdAt: Date.now() }).run();
      })
      .immediate();
    this.#altered(name);
  }

  #requireFree(name: string): void {
    requireName(name, 'table');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'table', name });
    this.former.requireFree('table', 'table', name);
  }

  /** Tells of a table that there is, or is another: drafts may name it. */
  #altered(name: string): void {
    this.#known.delete(name);
    this.bus.changed('table', name);
    this.bus.changed('columns', name);
  }

  /** Changes the columns, all of it or nothing. @param follow what else changes with them, in the same transaction @throws request_invalid, value_refused */
  alter(given: string, change: ColumnChange, follow: () => void = () => {}): void {
    const name = this.nameOf(given);
    const before = this.table(name);
    this.database.driver
      .transaction(() => {
        const after = alterColumns(this.database.driver, dataTable(name), name, before, change);
        this.database.update(tables).set(after).where(eq(tables.name, name)).run();
        follow();
        this.#altered(name);
      })
      .immediate();
  }

  /** Makes a table have these columns; one that is there keeps the rows that fit. @throws request_invalid */
  become(name: string, columns: Record<string, ColumnType>, owner: string | null): void {
    if (!this.names().includes(name)) return void this.create(name, columns, owner);
    const here = this.columns(name);
    const types = Object.fromEntries(
      here.flatMap((column) => {
        const wanted = ownOf(columns, column.name);
        return wanted && wanted !== column.type ? [[column.name, wanted]] : [];
      }),
    );
    const known = here.map((column) => column.name);
    const add = Object.fromEntries(Object.entries(columns).filter(([column]) => !known.includes(column)));
    const drop = known.filter((column) => !Object.hasOwn(columns, column));
    this.alter(name, { types, add, drop, owner });
  }

  /** Gives the table its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.driver.exec(`ALTER TABLE ${dataTable(from)} RENAME TO ${dataTable(to)}`);
    this.database.update(tables).set({ name: to }).where(eq(tables.name, from)).run();
    this.#known.delete(from);
    this.#altered(to);
  }

  copy(from: string, to: string, rows: boolean): void {
    const { columns, owner } = this.table(from);
    this.database.driver
      .transaction(() => {
        this.create(to, Object.fromEntries(columns.map(({ name, type }) => [name, type])), owner);
        const names = columns.map(({ name }) => quote(name)).join(', ');
        if (rows)
          this.database.driver.exec(
            `INSERT INTO ${dataTable(to)} (id, ${names}) SELECT id, ${names} FROM ${this.data(from)} ORDER BY id`,
          );
      })
      .immediate();
  }
}
