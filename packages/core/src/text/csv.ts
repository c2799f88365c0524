import type { Json, JsonObject } from '../json/json.js';
import { type CellType, cellText, readCell } from './cells.js';

/*
 * Reads and writes tables as CSV (RFC 4180), for the console and the command line. Both bring the libraries csv-parse
 * and csv-stringify, whose options these are.
 */

/**
 * Options of csv-parse. Lines may end in CRLF, LF or CR. Spaces belong to the value. An empty value without quotes is
 * read as null, and one in quotes as an empty text. Records of any length are read, so that {@link readCsvRecord} can
 * report each of them.
 */
export const CSV_READING = {
  bom: true,
  info: true,
  skip_empty_lines: true,
  relax_column_count: true,
  record_delimiter: ['\r\n', '\n', '\r'],
  cast: (value: string, { quoting }: { quoting: boolean }): string | null => (value === '' && !quoting ? null : value),
};

/** Options of csv-stringify: CRLF between records, an empty text in quotes, null as nothing. */
export const CSV_WRITING = {
  record_delimiter: 'windows' as const,
  quoted_match: /^\s|\s$/,
  cast: { string: (value: string) => (value === '' ? { value, quoted_empty: true } : value) },
};

interface Column {
  name: string;
  type: CellType;
}
/** One record as csv-parse reads it with {@link CSV_READING}. */
export interface CsvRecord {
  record: (string | null)[];
  /** `lines`: the number of the last line of the record, from 1. */
  info: { lines: number };
}

/** The columns of a CSV file in their order, null for one that is not imported; or why they cannot be. */
export type CsvHead = { columns: (Column | null)[] } | { problems: string[] };

/**
 * Reads the first record of a CSV file, which names the columns.
 * @param key the column by which existing rows are updated; `id` is imported only as the key
 */
export function readCsvHead(names: readonly (string | null)[], columns: readonly Column[], key?: string): CsvHead {
  const problems: string[] = [];
  const seen = new Set<string>();
  const found = names.map((given, index): Column | null => {
    const name = (given ?? '').trim();
    if (seen.has(name)) problems.push(`Column "${name}" occurs twice in the first line. Rename or delete one of them.`);
    seen.add(name);
    if (name === 'id') return key === 'id' ? { name, type: 'whole' } : null;
    const column = columns.find((one) => one.name === name);
    if (!column)
      problems.push(
        name === ''
          ? `Column ${index + 1} has no name in the first line.`
          : `The table has no column "${name}". It has ${columns.map((one) => one.name).join(', ')}.`,
      );
    return column ?? null;
  });
  if (key !== undefined && !seen.has(key)) problems.push(`The first line has no key column "${key}".`);
  return problems.length > 0 ? { problems } : { columns: found };
}

/** Reads one record as a row of the table, or reports every value that does not fit. */
export function readCsvRecord(
  { record, info }: CsvRecord,
  columns: readonly (Column | null)[],
): { row: JsonObject } | { problems: string[] } {
  const line = `Line ${info.lines}`;
  if (record.length !== columns.length)
    return { problems: [`${line} has ${record.length} values instead of ${columns.length}.`] };
  const problems: string[] = [];
  const row: JsonObject = {};
  for (const [index, column] of columns.entries()) {
    if (!column) continue;
    const text = record[index] ?? null;
    const read = text === '' && column.type === 'text' ? { value: '' } : readCell(text ?? '', column.type);
    if ('value' in read) row[column.name] = read.value;
    else problems.push(`${line}: "${(text ?? '').slice(0, 60)}" in column "${column.name}" is not ${read.wants}.`);
  }
  return problems.length > 0 ? { problems } : { row };
}

/** Returns a row as a record for csv-stringify, so that {@link readCsvRecord} returns the same row. */
export const writeCsvRecord = (row: JsonObject, columns: readonly Column[]): (string | null)[] =>
  columns.map(({ name, type }) => {
    const value: Json = row[name] ?? null;
    return value === null ? null : cellText(value, type);
  });
