import type { TableSummary } from '@pindro/contract/light';
import { CSV_READING, CSV_WRITING, cellText, type Json, type JsonObject, readCell } from '@pindro/core/browser';
import { parse } from 'csv-parse/browser/esm/sync';
import { stringify } from 'csv-stringify/browser/esm/sync';
import { api } from '../state/api.js';

/** Rows that a request takes, and that one asks for. */
const AT_ONCE = 500;

export interface CsvRows {
  rows: JsonObject[];
  /** What cannot be taken in, with its line; nothing is while there is any. */
  faults: string[];
}

/** Reads a CSV file whose first line names columns; `id` is left out, since rows get ids of their own. */
export function readCsv(text: string, columns: TableSummary['columns']): CsvRows {
  const faults: string[] = [];
  let lines: string[][];
  try {
    lines = parse(text, CSV_READING) as string[][];
  } catch (error) {
    return { rows: [], faults: [(error as Error).message] };
  }
  const [head = [], ...body] = lines;
  const known = head.map((name) => columns.find((column) => column.name === name.trim()));
  for (const [index, name] of head.entries())
    if (!known[index] && name.trim() !== 'id') faults.push(`There is no column “${name}”.`);
  const rows = body.map((cells, line): JsonObject => {
    const row: [string, Json][] = [];
    for (const [index, text] of cells.entries()) {
      const column = known[index];
      if (!column) continue;
      const read = readCell(text, column.type);
      if ('value' in read) row.push([column.name, read.value]);
      else faults.push(`Line ${line + 2}: “${text.slice(0, 40)}” in ${column.name} is not ${read.wants}.`);
    }
    return Object.fromEntries(row);
  });
  return { rows, faults };
}

/** Adds rows in portions. @param told how many are in */
export async function addRows(name: string, rows: JsonObject[], told: (count: number) => void): Promise<void> {
  for (let from = 0; from < rows.length; from += AT_ONCE) {
    await api.addRows({ name, body: { rows: rows.slice(from, from + AT_ONCE) } });
    told(Math.min(rows.length, from + AT_ONCE));
  }
}

/** Every row of a table as CSV, the oldest first. @param told how many are written */
export async function writeCsv(table: TableSummary, told: (count: number) => void): Promise<string> {
  const names = ['id', ...table.columns.map((column) => column.name)];
  const rowsOf = (items: readonly JsonObject[]) => items.map((row) => names.map((name) => cellText(row[name] ?? null)));
  const parts = [stringify([names], CSV_WRITING)];
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
