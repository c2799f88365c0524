import type { TableSummary } from '@pindro/contract/light';
import {
  CSV_READING,
  CSV_WRITING,
  type CsvRecord,
  type JsonObject,
  readCsvHead,
  readCsvRecord,
  writeCsvRecord,
} from '@pindro/core/browser';
import { parse } from 'csv-parse/browser/esm/sync';
import { stringify } from 'csv-stringify/browser/esm/sync';
import { api } from '../state/api.js';

/** Rows per request. */
const AT_ONCE = 500;

export interface CsvRows {
  rows: JsonObject[];
  /** Every problem of the file with its line. Nothing is imported while there is any. */
  faults: string[];
}

/**
 * Reads a CSV file whose first line names columns. @param key the column by which existing rows are updated; the
 * column `id` is ignored unless it is the key
 */
export function readCsv(text: string, columns: TableSummary['columns'], key?: string): CsvRows {
  let records: CsvRecord[];
  try {
    records = parse(text, CSV_READING) as unknown as CsvRecord[];
  } catch (error) {
    return { rows: [], faults: [(error as Error).message] };
  }
  const [first, ...rest] = records;
  if (!first) return { rows: [], faults: [] };
  const head = readCsvHead(first.record, columns, key);
  if ('problems' in head) return { rows: [], faults: head.problems };
  const rows: JsonObject[] = [];
  const faults: string[] = [];
  for (const record of rest) {
    const read = readCsvRecord(record, head.columns);
    if ('row' in read) rows.push(read.row);
    else faults.push(...read.problems);
  }
  return { rows: faults.length > 0 ? [] : rows, faults };
}

/**
 * Adds rows in portions, or updates those with the same value in the key column.
 * @param report called with the number of rows sent so far
 */
export async function addRows(
  name: string,
  rows: JsonObject[],
  report: (count: number) => void,
  key?: string,
): Promise<{ added: number; changed: number }> {
  const total = { added: 0, changed: 0 };
  for (let from = 0; from < rows.length; from += AT_ONCE) {
    const portion = rows.slice(from, from + AT_ONCE);
    const { added, changed } = await api.addRows({ name, body: { rows: portion, ...(key && { key }) } });
    total.added += added;
    total.changed += changed;
    report(Math.min(rows.length, from + AT_ONCE));
  }
  return total;
}

/** Every row of a table as CSV, the oldest first. @param told how many are written */
export async function writeCsv(table: TableSummary, told: (count: number) => void): Promise<string> {
  const columns = [{ name: 'id', type: 'whole' as const }, ...table.columns];
  const rowsOf = (items: readonly JsonObject[]) => items.map((row) => writeCsvRecord(row, columns));
  const parts = [stringify([columns.map(({ name }) => name)], CSV_WRITING)];
  let cursor: string | undefined;
  let count = 0;
  do {
    const page = await api.tableRows({
      name: table.name,
      query: { limit: AT_ONCE, oldest: 'true', ...(cursor && { cursor }) },
    });
    parts.push(stringify(rowsOf(page.items), CSV_WRITING));
    told((count += page.items.length));
    cursor = page.next ?? undefined;
  } while (cursor);
  return parts.join('');
}
