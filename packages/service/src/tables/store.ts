import {
  type Filter,
  type JsonObject,
  PindroError,
  type TableAnswer,
  type TableOperation,
  type TablePort,
  type Where,
} from '@pindro/core';
import type { FormerNames } from '../objects/former-names.js';
import type { Driver } from '../platform/database/driver.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { dataName, TableDefinitions } from './definitions.js';
import { type By, type HistoryEntry, RowHistory } from './history.js';
import { Ledger } from './ledger.js';
import { TableRows } from './rows.js';

/** The conditions, of which each alternative also asks for what is the caller's own. */
const within = (filter: Filter, own: JsonObject): Filter =>
  Object.keys(own).length === 0
    ? filter
    : (filter.length === 0 ? [{}] : filter).map((where) => ({ ...where, ...(own as Where) }));

/** The workspace's built-in records: who reaches which rows, what was done once, and by whom. */
export class TableStore implements TablePort {
  readonly definitions: TableDefinitions;
  readonly rows: TableRows;
  readonly #driver: Driver;
  readonly #ledger: Ledger;
  readonly #history: RowHistory;

  constructor(database: Database, bus: Bus, former: FormerNames) {
    this.#driver = database.driver;
    this.definitions = new TableDefinitions(database, bus, former);
    this.rows = new TableRows(database.driver, bus, this.definitions);
    this.#ledger = new Ledger(database);
    this.#history = new RowHistory(database, bus);
  }

  /** The record has the end of a run: what its steps did is settled. */
  runEnded(run: string): void {
    this.#ledger.runEnded(run);
  }

  /** Deletes data of ended runs. @param endedOf which of some runs have ended */
  tidyLedger(endedOf: (runs: readonly string[]) => string[]): void {
    this.#ledger.tidy(endedOf);
  }

  close(): void {
    this.#ledger.close();
  }

  names(): string[] {
    return this.definitions.names();
  }

  /** Gives the table its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.#history.callOtherwise(from, to);
    this.definitions.callOtherwise(from, to);
  }

  /** Changes values of one row. */
  updateRow(table: string, id: number, set: JsonObject, by: By): JsonObject {
    this.rows.row(table, id);
    return this.#driver
      .transaction(() => {
        const { rows } = this.rows.change(table, [{ id }], set);
        this.#history.enter(this.definitions.nameOf(table), rows, 'changed', by, Object.keys(set));
        return rows[0]!;
      })
      .immediate();
  }

  /** Adds a row. */
  addRow(table: string, row: JsonObject, by: By): JsonObject {
    return this.#driver
      .transaction(() => {
        const { rows } = this.rows.add({ table, row, unless: null });
        this.#history.enter(this.definitions.nameOf(table), rows, 'added', by, Object.keys(row));
        return rows[0]!;
      })
      .immediate();
  }

  /** What was done to a row, the latest first. @throws not_found */
  historyOf(table: string, id: number): HistoryEntry[] {
    this.rows.row(table, id);
    return this.#history.of(this.definitions.nameOf(table), id);
  }

  /** Adds rows, all of them or none. */
  addAll(table: string, rows: readonly JsonObject[], by?: By): void {
    this.#each(rows, (row) => {
      if (by) this.addRow(table, row, by);
      else this.rows.add({ table, row, unless: null });
    });
  }

  /**
   * Updates the rows that have the same value in a column, and adds those that no row has; all of them or none.
   * @param key a column, or `id`: a row with an id that the table does not have is refused
   */
  updateAll(table: string, rows: readonly JsonObject[], key: string, by: By): { added: number; changed: number } {
    let [added, changed] = [0, 0];
    this.#each(rows, (given) => {
      const { id, ...values } = given;
      if (key === 'id') {
        if ((id ?? null) === null) this.addRow(table, values, by);
        else this.updateRow(table, Number(id), values, by);
        if ((id ?? null) === null) added++;
        else changed++;
        return;
      }
      const answer = this.rows.upsert({ do: 'upsert', table, key: [key], row: given }, {});
      const did = answer.added ? 'added' : 'changed';
      this.#history.enter(this.definitions.nameOf(table), answer.rows, did, by, Object.keys(given));
      if (answer.added) added++;
      else changed += answer.rows.length;
    });
    return { added, changed };
  }

  /** Does the same with every row in one transaction. An error names the row it is about. */
  #each(rows: readonly JsonObject[], work: (row: JsonObject) => void): void {
    this.#driver
      .transaction(() => {
        for (const [index, row] of rows.entries())
          try {
            work(row);
          } catch (error) {
            if (!(error instanceof PindroError)) throw error;
            throw PindroError.from({
              ...error.toRecord(),
              at: `/rows/${index}${(error.at ?? '').replace(/^\/(row|set)/, '')}`,
            });
          }
      })
      .immediate();
  }

  /** Makes these the rows of a table, with the ids they have. */
  replaceRows(name: string, rows: readonly JsonObject[]): void {
    this.#driver.exec(`DELETE FROM ${this.definitions.data(name)}`);
    this.addAll(name, rows);
  }

  /** How a row is removed. */
  rowToTake(table: string, id: number): { table: string; where: { id: number } } {
    return { table: dataName(this.definitions.nameOf(table)), where: { id } };
  }

  /**
   * @param caller whose rows they are where the table keeps callers apart
   * @param key a change already made under it is answered as it was
   */
  async run(given: TableOperation, { caller, key }: { caller: string; key: string }): Promise<TableAnswer> {
    const operation = { ...given, table: this.definitions.nameOf(given.table) };
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
        return { rows: this.rows.find({ ...operation, where: within(operation.where, own) }) };
      case 'count':
        return { rows: [], count: this.rows.count(operation.table, within(operation.where, own)) };
      case 'add': {
        const { unless } = operation;
        return this.rows.add({
          ...operation,
          row: { ...operation.row, ...own },
          unless: unless && { ...unless, where: { ...unless.where, ...own } },
        });
      }
      case 'change': {
        const where = within(operation.where, own);
        const allowed = (set: JsonObject) => withoutOwner(operation.table, set, own);
        return operation.late
          ? this.rows.changeLate(operation, where, allowed)
          : this.rows.change(operation.table, where, allowed(operation.set));
      }
      case 'remove':
        return this.rows.remove(operation.table, within(operation.where, own));
      case 'upsert':
        return this.rows.upsert({ ...operation, row: { ...operation.row, ...own } }, own);
    }
  }

  /** What every row of the caller has, in a table that keeps callers apart. */
  #ownOf(table: string, caller: string): JsonObject {
    const { owner } = this.definitions.table(table);
    return owner === null ? {} : { [owner]: caller };
  }
}

/** Nobody hands a row of theirs over to somebody else. */
function withoutOwner(table: string, set: JsonObject, own: JsonObject): JsonObject {
  const column = Object.keys(own)[0];
  if (column !== undefined && Object.hasOwn(set, column) && set[column] !== own[column])
    throw new PindroError(
      'value_refused',
      { table, column, got: JSON.stringify(set[column]), wants: 'only the caller who owns the row' },
      { at: `/set/${column}` },
    );
  return set;
}
