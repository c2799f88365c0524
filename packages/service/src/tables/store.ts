import type { ColumnType, TableSummary } from '@pindro/contract';
import {
  didYouMean,
  type Filter,
  type Json,
  type JsonObject,
  ownOf,
  PindroError,
  rowFiller,
  type TableAnswer,
  type TableOperation,
  type TablePort,
  type Where,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import { alterColumns, type ColumnChange, requireColumns } from './alter.js';
import { type Column, loaded, STORAGE, stored } from './column.js';
import { type Conditions, columnOf, conditionsOf } from './conditions.js';
import { type By, type HistoryEntry, RowHistory } from './history.js';
import { Ledger } from './ledger.js';
import { tables } from './tables.js';

/** So many rows are changed by expressions at once. */
const MOST_LATE = 10_000;

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
/** The conditions, of which each alternative also asks for what is the caller's own. */
const within = (filter: Filter, own: JsonObject): Filter =>
  Object.keys(own).length === 0
    ? filter
    : (filter.length === 0 ? [{}] : filter).map((where) => ({ ...where, ...(own as Where) }));
const dataName = (name: string) => `data_${name}`;
const dataTable = (name: string) => quote(dataName(name));

/** More rows than these are not sorted for a page: the whole table would have to be gone through each time. */
const MOST_SORTED = 200_000;
/** A text is looked for in so many rows at a time, as nobody else is served meanwhile. */
const MOST_SEARCHED = 100_000;

export interface RowFilter {
  /** Leaves so many out. */
  skip?: number | undefined;
  /** The column to sort by; by age if left out. */
  sort?: string | undefined;
  descending?: boolean;
  /** The id of the last row of the page before. */
  from?: number | undefined;
  oldest?: boolean;
  /** Only rows with this in one of their values. */
  search?: string | undefined;
  where?: Filter;
}

/** The workspace's built-in records. */
export class TableStore implements TablePort {
  readonly #known = new Map<string, { columns: Column[]; owner: string | null }>();
  readonly #ledger: Ledger;
  readonly #history: RowHistory;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly former: FormerNames,
  ) {
    this.#ledger = new Ledger(database);
    this.#history = new RowHistory(database, bus);
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

  /** The table of SQLite that holds its rows. */
  #data(given: string): string {
    return dataTable(this.nameOf(given));
  }

  /** The record has the end of a run: what its steps did is settled. */
  runEnded(run: string): void {
    this.#ledger.runEnded(run);
  }

  /** Lets go of what belongs to runs that have ended. @param endedOf tells which of some runs have */
  tidyLedger(endedOf: (runs: readonly string[]) => string[]): void {
    this.#ledger.tidy(endedOf);
  }

  close(): void {
    this.#ledger.close();
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
    const table = this.#table(name);
    const { count } = this.database.driver.prepare(`SELECT count(*) AS count FROM ${this.#data(name)}`).get() as {
      count: number;
    };
    return { name, ...table, rows: Number(count) };
  }

  /** The columns of every table, under former names too. */
  allColumns(): Record<string, Column[]> {
    return Object.fromEntries([...this.names(), ...this.former.all('table')].map((name) => [name, this.columns(name)]));
  }

  columns(name: string): Column[] {
    return this.#table(name).columns;
  }

  #table(given: string): { columns: Column[]; owner: string | null } {
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
    const before = this.#table(name);
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

  /** Makes these the rows of a table, with the ids they have. */
  replaceRows(name: string, rows: readonly JsonObject[]): void {
    this.database.driver.exec(`DELETE FROM ${this.#data(name)}`);
    this.addAll(name, rows);
  }

  /** Gives the table its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.driver.exec(`ALTER TABLE ${dataTable(from)} RENAME TO ${dataTable(to)}`);
    this.database.update(tables).set({ name: to }).where(eq(tables.name, from)).run();
    this.#history.callOtherwise(from, to);
    this.#known.delete(from);
    this.#altered(to);
  }

  copy(from: string, to: string, rows: boolean): void {
    const { columns, owner } = this.#table(from);
    this.database.driver
      .transaction(() => {
        this.create(to, Object.fromEntries(columns.map(({ name, type }) => [name, type])), owner);
        const names = columns.map(({ name }) => quote(name)).join(', ');
        if (rows)
          this.database.driver.exec(
            `INSERT INTO ${dataTable(to)} (id, ${names}) SELECT id, ${names} FROM ${this.#data(from)} ORDER BY id`,
          );
      })
      .immediate();
  }

  /** @throws not_found */
  row(table: string, id: number): JsonObject {
    const [row] = this.find({ table, where: [{ id }], sort: null, descending: false, limit: 1 });
    if (!row)
      throw new PindroError('not_found', { what: `row of "${this.nameOf(table)}"`, name: String(id), suggestion: '' });
    return row;
  }

  /** Changes values of one row. */
  changeRow(table: string, id: number, set: JsonObject, by: By): JsonObject {
    this.row(table, id);
    return this.database.driver
      .transaction(() => {
        const { rows } = this.#change(table, [{ id }], set);
        this.#history.enter(this.nameOf(table), rows, 'changed', by, Object.keys(set));
        return rows[0]!;
      })
      .immediate();
  }

  /** Adds a row. */
  addRow(table: string, row: JsonObject, by: By): JsonObject {
    return this.database.driver
      .transaction(() => {
        const { rows } = this.add({ table, row, unless: null });
        this.#history.enter(this.nameOf(table), rows, 'added', by, Object.keys(row));
        return rows[0]!;
      })
      .immediate();
  }

  /** What was done to a row, the latest first. @throws not_found */
  historyOf(table: string, id: number): HistoryEntry[] {
    this.row(table, id);
    return this.#history.of(this.nameOf(table), id);
  }

  /** Adds rows, all of them or none. */
  addAll(table: string, rows: readonly JsonObject[], by?: By): void {
    this.database.driver
      .transaction(() => {
        for (const [index, row] of rows.entries())
          try {
            if (by) this.addRow(table, row, by);
            else this.add({ table, row, unless: null });
          } catch (error) {
            if (!(error instanceof PindroError)) throw error;
            throw PindroError.from({
              ...error.toRecord(),
              at: `/rows/${index}${(error.at ?? '').replace('/row', '')}`,
            });
          }
      })
      .immediate();
  }

  /** How a row is taken out. */
  rowToTake(table: string, id: number): { table: string; where: { id: number } } {
    return { table: dataName(this.nameOf(table)), where: { id } };
  }

  /**
   * @param caller whose rows they are where the table keeps callers apart
   * @param key a change already made under it is answered as it was
   */
  async run(given: TableOperation, { caller, key }: { caller: string; key: string }): Promise<TableAnswer> {
    const operation = { ...given, table: this.nameOf(given.table) };
    if (operation.do === 'find' || operation.do === 'count') return this.#perform(operation, caller);
    return this.#ledger.once(key, () => {
      const answer = this.#perform(operation, caller);
      const [run, ...path] = key.split('/');
      const by = { name: caller, run: run!, step: path.slice(0, -1).join('/') };
      const set = operation.do === 'change' ? operation.set : 'row' in operation ? operation.row : {};
      const added = operation.do === 'add' || answer.added === true;
      this.#history.enter(operation.table, answer.rows, added ? 'added' : 'changed', by, Object.keys(set));
      return answer;
    });
  }

  #perform(operation: TableOperation, caller: string): TableAnswer {
    const own = this.#ownOf(operation.table, caller);
    switch (operation.do) {
      case 'find':
        return { rows: this.find({ ...operation, where: within(operation.where, own) }) };
      case 'count':
        return { rows: [], count: this.#count(operation.table, within(operation.where, own)) };
      case 'add': {
        const { unless } = operation;
        return this.add({
          ...operation,
          row: { ...operation.row, ...own },
          unless: unless && { ...unless, where: { ...unless.where, ...own } },
        });
      }
      case 'change': {
        const where = within(operation.where, own);
        return operation.late
          ? this.#changeLate(operation, where, own)
          : this.#change(operation.table, where, this.#withoutOwner(operation, own));
      }
      case 'remove':
        return this.#remove(operation.table, within(operation.where, own));
      case 'upsert':
        return this.#upsert({ ...operation, row: { ...operation.row, ...own } }, own);
    }
  }

  /** What every row of the caller has, in a table that keeps callers apart. */
  #ownOf(table: string, caller: string): JsonObject {
    const { owner } = this.#table(table);
    return owner === null ? {} : { [owner]: caller };
  }

  /** Nobody hands a row of theirs over to somebody else. */
  #withoutOwner({ table, set }: Extract<TableOperation, { do: 'change' }>, own: JsonObject): JsonObject {
    const column = Object.keys(own)[0];
    if (column !== undefined && Object.hasOwn(set, column) && set[column] !== own[column])
      throw new PindroError(
        'value_refused',
        { table, column, got: JSON.stringify(set[column]), wants: 'the caller alone, to whom the row belongs' },
        { at: `/set/${column}` },
      );
    return set;
  }

  find({ table, where, sort, descending, limit }: Omit<Extract<TableOperation, { do: 'find' }>, 'do'>): JsonObject[] {
    const { sql, values } = this.#conditions(table, where);
    const order = sort === null ? 'id' : quote(this.#column(table, sort).name);
    const rows = this.database.driver
      .prepare(`SELECT * FROM ${this.#data(table)}${sql} ORDER BY ${order}${descending ? ' DESC' : ''} LIMIT ?`)
      .all(...values, limit);
    return rows.map((row) => this.#load(table, row as Record<string, unknown>));
  }

  #count(table: string, where: Filter): number {
    const { sql, values } = this.#conditions(table, where);
    const { count } = this.database.driver
      .prepare(`SELECT count(*) AS count FROM ${this.#data(table)}${sql}`)
      .get(...values) as { count: number };
    return Number(count);
  }

  #change(table: string, where: Filter, set: JsonObject): TableAnswer {
    const entries = this.#stored(table, set, '/set');
    if (entries.length === 0)
      return { rows: this.find({ table, where, sort: null, descending: false, limit: 10_000 }) };
    const { sql, values } = this.#conditions(table, where);
    const assignments = entries.map(({ name }) => `${quote(name)} = ?`).join(', ');
    const rows = this.database.driver
      .prepare(`UPDATE ${this.#data(table)} SET ${assignments}${sql} RETURNING *`)
      .all(...entries.map(({ value }) => value), ...values);
    if (rows.length > 0) this.bus.changed('table', table);
    return { rows: rows.map((row) => this.#load(table, row as Record<string, unknown>)) };
  }

  /** Changes each row by what its expressions make of it, or none where their condition does not hold. Within a transaction. */
  #changeLate(operation: Extract<TableOperation, { do: 'change' }>, where: Filter, own: JsonObject): TableAnswer {
    const { table, set, late } = operation;
    const { when, scope } = late!;
    const fill = rowFiller(set, scope, ['set']);
    const holds = when === null ? null : rowFiller(when, scope, ['when']);
    const rows = this.find({ table, where, sort: null, descending: false, limit: MOST_LATE + 1 });
    if (rows.length > MOST_LATE)
      throw new PindroError('too_many_parts', { what: 'A change by expressions', found: rows.length, most: MOST_LATE });
    for (const row of rows) {
      const held = holds?.(row) ?? true;
      if (typeof held !== 'boolean')
        throw new PindroError(
          'config_refused',
          { why: `"when" must be true or false, not ${JSON.stringify(held).slice(0, 80)}`, kind: 'table' },
          { at: '/when' },
        );
      if (!held) return { rows: [], unfit: row };
    }
    return {
      rows: rows.flatMap((row) => {
        const values = fill(row) as JsonObject;
        return this.#change(table, [{ id: row.id! }], this.#withoutOwner({ ...operation, set: values }, own)).rows;
      }),
    };
  }

  #remove(table: string, where: Filter): TableAnswer {
    const { sql, values } = this.#conditions(table, where);
    const gone = this.database.driver.prepare(`DELETE FROM ${this.#data(table)}${sql} RETURNING id`).all(...values);
    if (gone.length > 0) this.bus.changed('table', table);
    return { rows: [], count: gone.length };
  }

  #upsert({ table, key, row }: Extract<TableOperation, { do: 'upsert' }>, own: JsonObject): TableAnswer {
    const missing = key.find((column) => (ownOf(row, column) ?? null) === null);
    if (missing !== undefined)
      throw new PindroError(
        'value_refused',
        { table, column: missing, got: 'nothing', wants: 'a value, because rows are told apart by it' },
        { at: `/row/${missing}` },
      );
    return this.database.driver
      .transaction((): TableAnswer => {
        const where = [{ ...Object.fromEntries(key.map((column) => [column, row[column] as Json])), ...own } as Where];
        const changed = this.#change(table, where, row);
        if (changed.rows.length > 0) return { ...changed, added: false };
        return { ...this.add({ table, row, unless: null }), added: true };
      })
      .immediate();
  }

  /** Values as they are stored, by column. */
  #stored(table: string, row: JsonObject, at = '/row'): { name: string; value: unknown }[] {
    return Object.entries(row).map(([name, value]) => ({
      name: this.#column(table, name).name,
      value: stored(table, this.#column(table, name), value, at),
    }));
  }

  /** One page of rows, newest first unless the oldest are wanted. */
  page(
    table: string,
    limit: number,
    { from, skip = 0, sort, descending = false, oldest = false, search = '', where = [] }: RowFilter = {},
  ): { items: JsonObject[]; next: string | null; count: number; searched: number | null } {
    const { sql, values } = this.#conditions(table, where);
    const texts = this.columns(table).map(({ name }) => `instr(lower(${quote(name)}), lower(?)) > 0`);
    const conditions = [
      ...(from === undefined ? [] : [{ sql: `id ${oldest ? '>' : '<'} ?`, values: [from] }]),
      ...(sql === '' ? [] : [{ sql: `(${sql.replace(/^ WHERE /, '')})`, values }]),
    ];
    const filter = conditions.length === 0 ? '' : ` WHERE ${conditions.map((one) => one.sql).join(' AND ')}`;
    const order = oldest ? 'ASC' : 'DESC';
    const all = `${this.#data(table)}${filter}`;
    const chosen = conditions.flatMap((one) => one.values);
    const size = this.#sizeOf(all, chosen);
    // The nearest rows alone are searched; the cursor leads on to the next ones.
    const fitting =
      search === ''
        ? all
        : `(SELECT * FROM ${all} ORDER BY id ${order} LIMIT ${MOST_SEARCHED}) WHERE ${texts.join(' OR ')}`;
    const given = search === '' ? chosen : [...chosen, ...texts.map(() => search)];
    const count = search === '' ? size : this.#sizeOf(fitting, given);
    if (sort !== undefined && count > MOST_SORTED)
      throw new PindroError('request_invalid', {
        why: `${count} rows are too many to sort here; at most ${MOST_SORTED} can be. Filter them first`,
      });
    const sorted = sort === undefined ? '' : `${quote(this.#column(table, sort).name)}${descending ? ' DESC' : ''}, `;
    const rows = this.database.driver
      .prepare(`SELECT * FROM ${fitting} ORDER BY ${sorted}id ${order} LIMIT ? OFFSET ?`)
      .all(...given, limit + 1, skip);
    const items = rows.slice(0, limit).map((row) => this.#load(table, row as Record<string, unknown>));
    const searched = search !== '' && size > MOST_SEARCHED ? MOST_SEARCHED : null;
    if (rows.length > limit) return { items, next: String(items.at(-1)?.id), count, searched };
    if (searched === null || sort !== undefined) return { items, next: null, count, searched };
    const last = this.database.driver
      .prepare(`SELECT id FROM ${all} ORDER BY id ${order} LIMIT 1 OFFSET ${MOST_SEARCHED - 1}`)
      .get(...chosen) as { id: number };
    return { items, next: String(last.id), count, searched };
  }

  #sizeOf(from: string, values: unknown[]): number {
    const { count } = this.database.driver
      .prepare(`SELECT count(*) AS count FROM ${from}`)
      .get(...(values as never[])) as {
      count: number;
    };
    return Number(count);
  }

  /** Checks the condition and adds the row in one transaction. */
  add({ table, row, unless }: Omit<Extract<TableOperation, { do: 'add' }>, 'do'>): TableAnswer {
    const entries = this.#stored(table, row);
    const values = entries.map(({ value }) => value);
    const names = entries.map(({ name }) => quote(name)).join(', ');
    const insert =
      entries.length === 0
        ? `INSERT INTO ${this.#data(table)} DEFAULT VALUES RETURNING *`
        : `INSERT INTO ${this.#data(table)} (${names}) VALUES (${entries.map(() => '?').join(', ')}) RETURNING *`;
    const answer = this.database.driver
      .transaction((): TableAnswer => {
        if (unless) {
          const { sql, values: compared } = this.#conditions(table, [unless.where]);
          const measure =
            unless.sum === null ? 'count(*)' : `coalesce(sum(${quote(this.#column(table, unless.sum).name)}), 0)`;
          const { found } = this.database.driver
            .prepare(`SELECT ${measure} AS found FROM ${this.#data(table)}${sql}`)
            .get(...compared) as { found: number };
          if (Number(found) > unless.over) return { rows: [], refused: { found: Number(found), over: unless.over } };
        }
        const added = this.database.driver.prepare(insert).get(...values) as Record<string, unknown>;
        return { rows: [this.#load(table, added)] };
      })
      .immediate();
    if (!answer.refused) this.bus.changed('table', table);
    return answer;
  }

  #column(table: string, name: string): Column {
    return columnOf(table, this.columns(table), name);
  }

  /** Rows that fit any of the alternatives. */
  #conditions(table: string, filter: Filter): Conditions {
    return conditionsOf(table, this.columns(table), filter);
  }

  #load(table: string, row: Record<string, unknown>): JsonObject {
    const loadedRow: JsonObject = { id: Number(row.id) };
    for (const column of this.columns(table)) loadedRow[column.name] = loaded(column, row[column.name]);
    return loadedRow;
  }
}
