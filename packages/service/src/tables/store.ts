import type { ColumnType, TableSummary } from '@pindro/contract';
import {
  didYouMean,
  type Filter,
  isObject,
  type Json,
  type JsonObject,
  ownOf,
  PindroError,
  type TableAnswer,
  type TableOperation,
  type TablePort,
  type Where,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import { type Column, loaded, STORAGE, stored } from './column.js';
import { Ledger } from './ledger.js';
import { tables } from './tables.js';

const COLUMN_NAME = /^[a-z][a-z0-9_]{0,62}$/;
const OPERATORS: Record<string, string> = { gt: '>', gte: '>=', lt: '<', lte: '<=', not: 'IS NOT' };
const ROW_ID: Column = { name: 'id', type: 'whole' };

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
/** The conditions, of which each alternative also asks for what is the caller's own. */
const within = (filter: Filter, own: JsonObject): Filter =>
  Object.keys(own).length === 0
    ? filter
    : (filter.length === 0 ? [{}] : filter).map((where) => ({ ...where, ...(own as Where) }));
const dataTable = (name: string) => quote(`data_${name}`);

/** The workspace's built-in records. */
export class TableStore implements TablePort {
  readonly #known = new Map<string, { columns: Column[]; owner: string | null }>();
  readonly #ledger: Ledger;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {
    this.#ledger = new Ledger(database);
    bus.on('undone', () => this.#known.clear());
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

  summary(name: string): TableSummary {
    const { count } = this.database.driver.prepare(`SELECT count(*) AS count FROM ${dataTable(name)}`).get() as {
      count: number;
    };
    return { name, ...this.#table(name), rows: Number(count) };
  }

  columns(name: string): Column[] {
    return this.#table(name).columns;
  }

  #table(name: string): { columns: Column[]; owner: string | null } {
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
    requireName(name, 'table');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'table', name });
    const columns = Object.entries(types).map(([column, type]): Column => ({ name: column, type }));
    const odd = columns.find((column) => !COLUMN_NAME.test(column.name) || column.name === ROW_ID.name);
    if (odd)
      throw new PindroError(
        'request_invalid',
        { why: `"${odd.name}" cannot be the name of a column; take lower-case letters, digits and _, and not "id"` },
        { at: `/columns/${odd.name}` },
      );
    if (columns.length === 0)
      throw new PindroError('request_invalid', { why: 'A table needs at least one column' }, { at: '/columns' });
    if (owner !== null && ownOf(types, owner) !== 'text')
      throw new PindroError(
        'request_invalid',
        { why: `"${owner}", which is to hold the caller, must be one of the columns and a text` },
        { at: '/owner' },
      );
    const definitions = columns.map((column) => `${quote(column.name)} ${STORAGE[column.type].sql}`).join(', ');
    this.database.driver
      .transaction(() => {
        this.database.driver.exec(
          `CREATE TABLE ${dataTable(name)} (id INTEGER PRIMARY KEY AUTOINCREMENT, ${definitions})`,
        );
        this.database.insert(tables).values({ name, columns, owner, createdAt: Date.now() }).run();
      })
      .immediate();
    this.bus.changed('table', name);
  }

  /**
   * @param caller whose rows they are where the table keeps callers apart
   * @param key a change already made under it is answered as it was
   */
  async run(operation: TableOperation, { caller, key }: { caller: string; key: string }): Promise<TableAnswer> {
    if (operation.do === 'find' || operation.do === 'count') return this.#perform(operation, caller);
    return this.#ledger.once(key, () => this.#perform(operation, caller));
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
      case 'change':
        return this.#change(operation.table, within(operation.where, own), this.#withoutOwner(operation, own));
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
      .prepare(`SELECT * FROM ${dataTable(table)}${sql} ORDER BY ${order}${descending ? ' DESC' : ''} LIMIT ?`)
      .all(...values, limit);
    return rows.map((row) => this.#load(table, row as Record<string, unknown>));
  }

  #count(table: string, where: Filter): number {
    const { sql, values } = this.#conditions(table, where);
    const { count } = this.database.driver
      .prepare(`SELECT count(*) AS count FROM ${dataTable(table)}${sql}`)
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
      .prepare(`UPDATE ${dataTable(table)} SET ${assignments}${sql} RETURNING *`)
      .all(...entries.map(({ value }) => value), ...values);
    if (rows.length > 0) this.bus.changed('table', table);
    return { rows: rows.map((row) => this.#load(table, row as Record<string, unknown>)) };
  }

  #remove(table: string, where: Filter): TableAnswer {
    const { sql, values } = this.#conditions(table, where);
    const gone = this.database.driver.prepare(`DELETE FROM ${dataTable(table)}${sql} RETURNING id`).all(...values);
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

  /** One page of rows, newest first. */
  page(table: string, limit: number, before: number | null): { items: JsonObject[]; next: string | null } {
    this.columns(table);
    const rows = this.database.driver
      .prepare(`SELECT * FROM ${dataTable(table)} WHERE id < ? ORDER BY id DESC LIMIT ?`)
      .all(before ?? Number.MAX_SAFE_INTEGER, limit + 1);
    const items = rows.slice(0, limit).map((row) => this.#load(table, row as Record<string, unknown>));
    return { items, next: rows.length > limit ? String(items.at(-1)?.id) : null };
  }

  /** Checks the condition and adds the row in one transaction. */
  add({ table, row, unless }: Omit<Extract<TableOperation, { do: 'add' }>, 'do'>): TableAnswer {
    const entries = this.#stored(table, row);
    const values = entries.map(({ value }) => value);
    const names = entries.map(({ name }) => quote(name)).join(', ');
    const insert =
      entries.length === 0
        ? `INSERT INTO ${dataTable(table)} DEFAULT VALUES RETURNING *`
        : `INSERT INTO ${dataTable(table)} (${names}) VALUES (${entries.map(() => '?').join(', ')}) RETURNING *`;
    const answer = this.database.driver
      .transaction((): TableAnswer => {
        if (unless) {
          const { sql, values: compared } = this.#conditions(table, [unless.where]);
          const measure =
            unless.sum === null ? 'count(*)' : `coalesce(sum(${quote(this.#column(table, unless.sum).name)}), 0)`;
          const { found } = this.database.driver
            .prepare(`SELECT ${measure} AS found FROM ${dataTable(table)}${sql}`)
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
    const columns = this.columns(table);
    const column = name === ROW_ID.name ? ROW_ID : columns.find((candidate) => candidate.name === name);
    if (column) return column;
    throw new PindroError('not_found', {
      what: `column of "${table}"`,
      name,
      suggestion: didYouMean(
        name,
        columns.map((known) => known.name),
      ),
    });
  }

  /** Rows that fit any of the alternatives. */
  #conditions(table: string, filter: Filter): { sql: string; values: unknown[] } {
    const alternatives = filter.map((where) => this.#all(table, where));
    if (alternatives.length === 0 || alternatives.some(({ sql }) => sql === '')) return { sql: '', values: [] };
    return {
      sql: ` WHERE ${alternatives.map(({ sql }) => `(${sql})`).join(' OR ')}`,
      values: alternatives.flatMap(({ values }) => values),
    };
  }

  #all(table: string, where: Where): { sql: string; values: unknown[] } {
    const parts: string[] = [];
    const values: unknown[] = [];
    for (const [name, wanted] of Object.entries(where)) {
      const column = this.#column(table, name);
      const [operator, operand] = isObject(wanted) ? Object.entries(wanted)[0]! : ['is', wanted];
      if (operator === 'in') {
        const list = operand as Json[];
        parts.push(list.length === 0 ? '0' : `${quote(name)} IN (${list.map(() => '?').join(', ')})`);
        values.push(...list.map((value) => stored(table, column, value, '/where')));
      } else if (operator === 'contains') {
        parts.push(`instr(lower(${quote(name)}), lower(?)) > 0`);
        values.push(operand);
      } else {
        parts.push(`${quote(name)} ${OPERATORS[operator] ?? 'IS'} ?`);
        values.push(stored(table, column, operand as Json, '/where'));
      }
    }
    return { sql: parts.join(' AND '), values };
  }

  #load(table: string, row: Record<string, unknown>): JsonObject {
    const loadedRow: JsonObject = { id: Number(row.id) };
    for (const column of this.columns(table)) loadedRow[column.name] = loaded(column, row[column.name]);
    return loadedRow;
  }
}
