import { is, Param, type Placeholder, sql } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';
import type { Database } from '../platform/database/open.js';

export type Insert = (row: Record<string, unknown>) => void;

/** A parameter of a column is wrapped once more, together with how the column encodes it. */
const placeholderIn = (param: unknown): Placeholder =>
  is(param, Param) ? (param.value as Placeholder) : (param as Placeholder);

/**
 * Drizzle writes the statement once; the rows then pass the driver without being built into a query each time.
 * @param twice what to do with a row that is there already
 */
export function inserter(
  database: Database,
  table: SQLiteTable,
  columns: string[],
  twice: 'fail' | 'ignore' = 'fail',
): Insert {
  const values = Object.fromEntries(columns.map((column) => [column, sql.placeholder(column)]));
  const insert = database.insert(table).values(values);
  const { sql: text, params } = (twice === 'ignore' ? insert.onConflictDoNothing() : insert).toSQL();
  const statement = database.driver.prepare(text);
  const order = params.map((param) => placeholderIn(param).name);
  return (row) => void statement.run(...order.map((column) => row[column]));
}
