import {
  type Filter,
  type Json,
  type JsonObject,
  ownOf,
  PindroError,
  rowFiller,
  type TableAnswer,
  type TableOperation,
  type Where,
} from '@pindro/core';
import type { Driver } from '../platform/database/driver.js';
import type { Bus } from '../platform/events.js';
import { type Column, loaded, quote, stored } from './column.js';
import { type Conditions, columnOf, conditionsOf } from './conditions.js';
import type { TableDefinitions } from './definitions.js';
import { type Page, pageOf, type RowFilter } from './page.js';

/** Rows per batch of updates by expressions. */
const MOST_LATE = 10_000;

/** The rows of tables, whoever asks for them. */
export class TableRows {
  constructor(
    private readonly driver: Driver,
    private readonly bus: Bus,
    private readonly definitions: TableDefinitions,
  ) {}

  /** @throws not_found */
  row(table: string, id: number): JsonObject {
    const [row] = this.find({ table, where: [{ id }], sort: null, descending: false, limit: 1 });
    if (!row)
      throw new PindroError('not_found', {
        what: `row of "${this.definitions.nameOf(table)}"`,
        name: String(id),
        suggestion: '',
      });
    return row;
  }

  find({ table, where, sort, descending, limit }: Omit<Extract<TableOperation, { do: 'find' }>, 'do'>): JsonObject[] {
    const { sql, values } = this.#conditions(table, where);
    const order = sort === null ? 'id' : quote(this.#column(table, sort).name);
    const rows = this.driver
      .prepare(
        `SELECT * FROM ${this.definitions.data(table)}${sql} ORDER BY ${order}${descending ? ' DESC' : ''} LIMIT ?`,
      )
      .all(...values, limit);
    return rows.map((row) => this.#load(table, row as Record<string, unknown>));
  }

  count(table: string, where: Filter): number {
    const { sql, values } = this.#conditions(table, where);
    const { count } = this.driver
      .prepare(`SELECT count(*) AS count FROM ${this.definitions.data(table)}${sql}`)
      .get(...values) as { count: number };
    return Number(count);
  }

  change(table: string, where: Filter, set: JsonObject): TableAnswer {
    const entries = this.#stored(table, set, '/set');
    if (entries.length === 0)
      return { rows: this.find({ table, where, sort: null, descending: false, limit: 10_000 }) };
    const { sql, values } = this.#conditions(table, where);
    const assignments = entries.map(({ name }) => `${quote(name)} = ?`).join(', ');
    const rows = this.driver
      .prepare(`UPDATE ${this.definitions.data(table)} SET ${assignments}${sql} RETURNING *`)
      .all(...entries.map(({ value }) => value), ...values);
    if (rows.length > 0) this.bus.changed('table', table);
    return { rows: rows.map((row) => this.#load(table, row as Record<string, unknown>)) };
  }

  /**
   * Changes each row by what its expressions make of it, or none where their condition does not hold. Within a
   * transaction. @param allowed lets through what may be set
   */
  changeLate(
    operation: Extract<TableOperation, { do: 'change' }>,
    where: Filter,
    allowed: (set: JsonObject) => JsonObject,
  ): TableAnswer {
    const { table, set, late } = operation;
    const { when, scope } = late!;
    const fill = rowFiller(set, scope, ['set']);
    const holds = when === null ? null : rowFiller(when, scope, ['when']);
    const rows = this.find({ table, where, sort: null, descending: false, limit: MOST_LATE + 1 });
    if (rows.length > MOST_LATE)
      throw new PindroError('too_many_parts', {
        what: 'An update with expressions',
        found: rows.length,
        most: MOST_LATE,
      });
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
        return this.change(table, [{ id: row.id! }], allowed(values)).rows;
      }),
    };
  }

  remove(table: string, where: Filter): TableAnswer {
    const { sql, values } = this.#conditions(table, where);
    const gone = this.driver.prepare(`DELETE FROM ${this.definitions.data(table)}${sql} RETURNING id`).all(...values);
    if (gone.length > 0) this.bus.changed('table', table);
    return { rows: [], count: gone.length };
  }

  upsert({ table, key, row }: Extract<TableOperation, { do: 'upsert' }>, own: JsonObject): TableAnswer {
    const missing = key.find((column) => (ownOf(row, column) ?? null) === null);
    if (missing !== undefined)
      throw new PindroError(
        'value_refused',
        { table, column: missing, got: 'nothing', wants: 'a value, because it identifies rows' },
        { at: `/row/${missing}` },
      );
    return this.driver
      .transaction((): TableAnswer => {
        const where = [{ ...Object.fromEntries(key.map((column) => [column, row[column] as Json])), ...own } as Where];
        const changed = this.change(table, where, row);
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
  page(table: string, limit: number, filter: RowFilter = {}): Page {
    return pageOf(this.driver, limit, filter, {
      data: this.definitions.data(table),
      columns: this.definitions.columns(table),
      conditions: this.#conditions(table, filter.where ?? []),
      column: (name) => this.#column(table, name).name,
      load: (row) => this.#load(table, row),
    });
  }

  /** Checks the condition and adds the row in one transaction. */
  add({ table, row, unless }: Omit<Extract<TableOperation, { do: 'add' }>, 'do'>): TableAnswer {
    const entries = this.#stored(table, row);
    const values = entries.map(({ value }) => value);
    const names = entries.map(({ name }) => quote(name)).join(', ');
    const insert =
      entries.length === 0
        ? `INSERT INTO ${this.definitions.data(table)} DEFAULT VALUES RETURNING *`
        : `INSERT INTO ${this.definitions.data(table)} (${names}) VALUES (${entries.map(() => '?').join(', ')}) RETURNING *`;
    const answer = this.driver
      .transaction((): TableAnswer => {
        if (unless) {
          const { sql, values: compared } = this.#conditions(table, [unless.where]);
          const measure =
            unless.sum === null ? 'count(*)' : `coalesce(sum(${quote(this.#column(table, unless.sum).name)}), 0)`;
          const { found } = this.driver
            .prepare(`SELECT ${measure} AS found FROM ${this.definitions.data(table)}${sql}`)
            .get(...compared) as { found: number };
          if (Number(found) > unless.over) return { rows: [], refused: { found: Number(found), over: unless.over } };
        }
        const added = this.driver.prepare(insert).get(...values) as Record<string, unknown>;
        return { rows: [this.#load(table, added)] };
      })
      .immediate();
    if (!answer.refused) this.bus.changed('table', table);
    return answer;
  }

  #column(table: string, name: string): Column {
    return columnOf(table, this.definitions.columns(table), name);
  }

  /** Rows that fit any of the alternatives. */
  #conditions(table: string, filter: Filter): Conditions {
    return conditionsOf(table, this.definitions.columns(table), filter);
  }

  #load(table: string, row: Record<string, unknown>): JsonObject {
    const loadedRow: JsonObject = { id: Number(row.id) };
    for (const column of this.definitions.columns(table)) loadedRow[column.name] = loaded(column, row[column.name]);
    return loadedRow;
  }
}
