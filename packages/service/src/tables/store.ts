import type { ColumnType, TableSummary } from '@pindro/contract';
import {
  didYouMean,
  isObject,
  type Json,
  type JsonObject,
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
import { tables } from './tables.js';

const COLUMN_NAME = /^[a-z][a-z0-9_]{0,62}$/;
const OPERATORS: Record<string, string> = { gt: '>', gte: '>=', lt: '<', lte: '<=', not: 'IS NOT' };
const ROW_ID: Column = { name: 'id', type: 'whole' };

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const dataTable = (name: string) => quote(`data_${name}`);

/** The workspace's built-in records. */
export class TableStore implements TablePort {
  readonly #columns = new Map<string, Column[]>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {}

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
    const { count } = this.database.door.prepare(`SELECT count(*) AS count FROM ${dataTable(name)}`).get() as {
      count: number;
    };
    return { name, columns: this.columns(name), rows: Number(count) };
  }

  columns(name: string): Column[] {
    const known = this.#columns.get(name);
    if (known) return known;
    const row = this.database.select({ columns: tables.columns }).from(tables).where(eq(tables.name, name)).get();
    if (!row) throw new PindroError('not_found', { what: 'table', name, suggestion: didYouMean(name, this.names()) });
    const columns = row.columns as Column[];
    this.#columns.set(name, columns);
    return columns;
  }

  create(name: string, types: Record<string, ColumnType>): void {
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
    const definitions = columns.map((column) => `${quote(column.name)} ${STORAGE[column.type].sql}`).join(', ');
    this.database.door
      .transaction(() => {
        this.database.door.exec(
          `CREATE TABLE ${dataTable(name)} (id INTEGER PRIMARY KEY AUTOINCREMENT, ${definitions})`,
        );
        this.database.insert(tables).values({ name, columns, createdAt: Date.now() }).run();
      })
      .immediate();
    this.bus.changed('table', name);
  }

  async run(operation: TableOperation): Promise<TableAnswer> {
    return operation.do === 'find' ? { rows: this.find(operation) } : this.add(operation);
  }

  find({ table, where, sort, descending, limit }: Extract<TableOperation, { do: 'find' }>): JsonObject[] {
    const { sql, values } = this.#conditions(table, where);
    const order = sort === null ? 'id' : quote(this.#column(table, sort).name);
    const rows = this.database.door
      .prepare(`SELECT * FROM ${dataTable(table)}${sql} ORDER BY ${order}${descending ? ' DESC' : ''} LIMIT ?`)
      .all(...values, limit);
    return rows.map((row) => this.#load(table, row as Record<string, unknown>));
  }

  /** One page of rows, newest first. */
  page(table: string, limit: number, before: number | null): { items: JsonObject[]; next: string | null } {
    this.columns(table);
    const rows = this.database.door
      .prepare(`SELECT * FROM ${dataTable(table)} WHERE id < ? ORDER BY id DESC LIMIT ?`)
      .all(before ?? Number.MAX_SAFE_INTEGER, limit + 1);
    const items = rows.slice(0, limit).map((row) => this.#load(table, row as Record<string, unknown>));
    return { items, next: rows.length > limit ? String(items.at(-1)?.id) : null };
  }

  /** Checks the condition and adds the row in one transaction. */
  add({ table, row, unless }: Omit<Extract<TableOperation, { do: 'add' }>, 'do'>): TableAnswer {
    const entries = Object.entries(row).map(([name, value]) => [this.#column(table, name), value] as const);
    const values = entries.map(([column, value]) => stored(table, column, value));
    const names = entries.map(([column]) => quote(column.name)).join(', ');
    const insert =
      entries.length === 0
        ? `INSERT INTO ${dataTable(table)} DEFAULT VALUES RETURNING *`
        : `INSERT INTO ${dataTable(table)} (${names}) VALUES (${entries.map(() => '?').join(', ')}) RETURNING *`;
    const answer = this.database.door
      .transaction((): TableAnswer => {
        if (unless) {
          const { sql, values: compared } = this.#conditions(table, unless.where);
          const measure =
            unless.sum === null ? 'count(*)' : `coalesce(sum(${quote(this.#column(table, unless.sum).name)}), 0)`;
          const { found } = this.database.door
            .prepare(`SELECT ${measure} AS found FROM ${dataTable(table)}${sql}`)
            .get(...compared) as { found: number };
          if (Number(found) > unless.over) return { rows: [], refused: { found: Number(found), over: unless.over } };
        }
        const added = this.database.door.prepare(insert).get(...values) as Record<string, unknown>;
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

  #conditions(table: string, where: Where): { sql: string; values: unknown[] } {
    const parts: string[] = [];
    const values: unknown[] = [];
    for (const [name, wanted] of Object.entries(where)) {
      const column = this.#column(table, name);
      const [operator, operand] = isObject(wanted) ? Object.entries(wanted)[0]! : ['is', wanted];
      if (operator === 'in') {
        const list = operand as Json[];
        parts.push(list.length === 0 ? '0' : `${quote(name)} IN (${list.map(() => '?').join(', ')})`);
        values.push(...list.map((value) => stored(table, column, value)));
      } else if (operator === 'contains') {
        parts.push(`instr(lower(${quote(name)}), lower(?)) > 0`);
        values.push(operand);
      } else {
        parts.push(`${quote(name)} ${OPERATORS[operator] ?? 'IS'} ?`);
        values.push(stored(table, column, operand as Json));
      }
    }
    return { sql: parts.length > 0 ? ` WHERE ${parts.join(' AND ')}` : '', values };
  }

  #load(table: string, row: Record<string, unknown>): JsonObject {
    const loadedRow: JsonObject = { id: Number(row.id) };
    for (const column of this.columns(table)) loadedRow[column.name] = loaded(column, row[column.name]);
    return loadedRow;
  }
}
