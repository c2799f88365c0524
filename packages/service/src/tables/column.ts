import type { ColumnType } from '@pindro/contract';
import { type Json, PindroError } from '@pindro/core';

export interface Column {
  name: string;
  type: ColumnType;
}

interface Storage {
  sql: string;
  wants: string;
  /** The value as it is stored, or undefined when the column does not take it. */
  store(value: Json): unknown;
  load?(stored: unknown): Json;
}

const isDate = (text: string) =>
  /^\d{4}-\d{2}-\d{2}$/.test(text) && new Date(`${text}T00:00:00Z`).toISOString().startsWith(text);
const validDate = (text: string) => {
  try {
    return isDate(text);
  } catch {
    return false;
  }
};

/** How each type of column is kept. A value is never changed to fit. */
export const STORAGE: Record<ColumnType, Storage> = {
  text: { sql: 'TEXT', wants: 'text', store: (value) => (typeof value === 'string' ? value : undefined) },
  number: {
    sql: 'REAL',
    wants: 'a number',
    store: (value) => (typeof value === 'number' ? value : undefined),
    load: Number,
  },
  whole: {
    sql: 'INTEGER',
    wants: 'an integer up to 2^53 - 1',
    store: (value) => (Number.isSafeInteger(value) ? value : undefined),
    load: Number,
  },
  boolean: {
    sql: 'INTEGER',
    wants: 'true or false',
    store: (value) => (typeof value === 'boolean' ? Number(value) : undefined),
    load: Boolean,
  },
  date: {
    sql: 'TEXT',
    wants: 'a date such as 2027-02-14',
    store: (value) => (typeof value === 'string' && validDate(value) ? value : undefined),
  },
  json: {
    sql: 'TEXT',
    wants: 'any JSON value',
    store: (value) => JSON.stringify(value),
    load: (stored) => JSON.parse(String(stored)) as Json,
  },
};

/** @throws value_refused */
export function stored(table: string, column: Column, value: Json, at = '/row'): unknown {
  if (value === null) return null;
  const kept = STORAGE[column.type].store(value);
  const nul = typeof value === 'string' && value.includes('\0');
  if (kept !== undefined && !nul) return kept;
  const got = nul ? 'text with a NUL character' : (JSON.stringify(value) ?? 'nothing').slice(0, 60);
  const wants = nul ? 'text without NUL characters' : STORAGE[column.type].wants;
  throw new PindroError(
    'value_refused',
    { table, column: column.name, got, wants },
    { at: `${at}/${column.name}`, details: { table, column: column.name } },
  );
}

export function loaded(column: Column, kept: unknown): Json {
  if (kept === null || kept === undefined) return null;
  return STORAGE[column.type].load?.(kept) ?? (kept as Json);
}

/** A name as SQL takes it. */
export const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
