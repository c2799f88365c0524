import type { Filter, JsonObject } from '@pindro/core';
import { PindroError } from '@pindro/core';
import type { Database } from '../platform/database/open.js';
import { type Column, quote } from './column.js';
import type { Conditions } from './conditions.js';

/** More rows than these are not sorted for a page: the whole table would have to be gone through each time. */
const MOST_SORTED = 200_000;
/** Rows per batch of a text search, because it blocks. */
const MOST_SEARCHED = 100_000;

export interface RowFilter {
  /** Number of rows to skip. */
  skip?: number | undefined;
  /** Column to sort by; by age if omitted. */
  sort?: string | undefined;
  descending?: boolean;
  /** The id of the last row of the page before. */
  from?: number | undefined;
  oldest?: boolean;
  /** Only rows with this in one of their values. */
  search?: string | undefined;
  where?: Filter;
}

export interface Page {
  items: JsonObject[];
  /** Start of the next page. */
  next: string | null;
  /** Number of matching rows among those searched. */
  count: number;
  /** In how many rows a text was looked for, where not in all. */
  searched: number | null;
}

/** The table that a page is of. */
interface Paged {
  /** Its name in SQLite, quoted. */
  data: string;
  columns: Column[];
  conditions: Conditions;
  column(name: string): string;
  load(row: Record<string, unknown>): JsonObject;
}

/** One page of rows, newest first unless the oldest are wanted. @throws request_invalid where too many would be sorted */
export function pageOf(
  driver: Database['driver'],
  limit: number,
  { from, skip = 0, sort, descending = false, oldest = false, search = '' }: RowFilter,
  { data, columns, conditions: { sql, values }, column, load }: Paged,
): Page {
  const texts = columns.map(({ name }) => `instr(lower(${quote(name)}), lower(?)) > 0`);
  const conditions = [
    ...(from === undefined ? [] : [{ sql: `id ${oldest ? '>' : '<'} ?`, values: [from] }]),
    ...(sql === '' ? [] : [{ sql: `(${sql.replace(/^ WHERE /, '')})`, values }]),
  ];
  const filter = conditions.length === 0 ? '' : ` WHERE ${conditions.map((one) => one.sql).join(' AND ')}`;
  const order = oldest ? 'ASC' : 'DESC';
  const all = `${data}${filter}`;
  const chosen = conditions.flatMap((one) => one.values);
  const size = sizeOf(driver, all, chosen);
  // The nearest rows alone are searched; the cursor leads on to the next ones.
  const fitting =
    search === ''
      ? all
      : `(SELECT * FROM ${all} ORDER BY id ${order} LIMIT ${MOST_SEARCHED}) WHERE ${texts.join(' OR ')}`;
  const given = search === '' ? chosen : [...chosen, ...texts.map(() => search)];
  const count = search === '' ? size : sizeOf(driver, fitting, given);
  if (sort !== undefined && count > MOST_SORTED)
    throw new PindroError('request_invalid', {
      why: `${count} rows are too many to sort, and the limit is ${MOST_SORTED}. Filter them first`,
    });
  const sorted = sort === undefined ? '' : `${quote(column(sort))}${descending ? ' DESC' : ''}, `;
  const rows = driver
    .prepare(`SELECT * FROM ${fitting} ORDER BY ${sorted}id ${order} LIMIT ? OFFSET ?`)
    .all(...given, limit + 1, skip);
  const items = rows.slice(0, limit).map((row) => load(row as Record<string, unknown>));
  const searched = search !== '' && size > MOST_SEARCHED ? MOST_SEARCHED : null;
  if (rows.length > limit) return { items, next: String(items.at(-1)?.id), count, searched };
  if (searched === null || sort !== undefined) return { items, next: null, count, searched };
  const last = driver
    .prepare(`SELECT id FROM ${all} ORDER BY id ${order} LIMIT 1 OFFSET ${MOST_SEARCHED - 1}`)
    .get(...chosen) as { id: number };
  return { items, next: String(last.id), count, searched };
}

function sizeOf(driver: Database['driver'], from: string, values: unknown[]): number {
  const { count } = driver.prepare(`SELECT count(*) AS count FROM ${from}`).get(...values) as {
    count: number;
  };
  return Number(count);
}
