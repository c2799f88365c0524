import type { ColumnType } from '@pindro/contract';
import { didYouMean, type Json, ownOf, PindroError } from '@pindro/core';
import type { Driver } from '../platform/database/driver.js';
import { type Column, loaded, quote, STORAGE, stored } from './column.js';

const COLUMN_NAME = /^[a-z][a-z0-9_]{0,62}$/;
const refuse = (why: string, at: string) => new PindroError('request_invalid', { why }, { at });

/** @throws request_invalid for columns that a table cannot have */
export function requireColumns(columns: readonly Column[], owner: string | null): void {
  const odd = columns.find(({ name }) => !COLUMN_NAME.test(name) || name === 'id');
  if (odd)
    throw refuse(
      `"${odd.name}" is not a valid column name; use lower-case letters, digits and _, and not "id"`,
      `/columns/${odd.name}`,
    );
  if (columns.length === 0) throw refuse('A table needs at least one column', '/columns');
  if (owner !== null && columns.find(({ name }) => name === owner)?.type !== 'text')
    throw refuse(`"${owner}" is the owner column and must be an existing text column`, '/owner');
}

/** What is to change of the columns of a table. */
export interface ColumnChange {
  owner?: string | null | undefined;
  add?: Record<string, ColumnType> | undefined;
  /** New names by old ones. */
  rename?: Record<string, string> | undefined;
  types?: Record<string, ColumnType> | undefined;
  drop?: readonly string[] | undefined;
}

interface Shape {
  columns: Column[];
  owner: string | null;
}

/**
 * Changes the columns of a table inside the caller's transaction: first names, then types, then removals and
 * additions; types and removals use the old names.
 * @param data the quoted SQLite table
 * @returns the new table
 */
export function alterColumns(driver: Driver, data: string, table: string, before: Shape, change: ColumnChange): Shape {
  const { add = {}, rename = {}, types = {}, drop = [] } = change;
  const requireThere = (name: string, at: string) => {
    const known = before.columns.map((column) => column.name);
    if (!known.includes(name))
      throw new PindroError(
        'not_found',
        { what: `column of "${table}"`, name, suggestion: didYouMean(name, known) },
        { at },
      );
  };
  for (const name of Object.keys(rename)) requireThere(name, `/rename/${name}`);
  for (const name of Object.keys(types)) requireThere(name, `/types/${name}`);
  for (const name of drop) requireThere(name, '/drop');
  const kept = before.columns.filter(({ name }) => !drop.includes(name));
  const columns: Column[] = [
    ...kept.map(({ name, type }) => ({ name: ownOf(rename, name) ?? name, type: ownOf(types, name) ?? type })),
    ...Object.entries(add).map(([name, type]) => ({ name, type })),
  ];
  const names = columns.map(({ name }) => name);
  const twice = names.find((name, index) => names.indexOf(name) !== index);
  if (twice !== undefined) throw new PindroError('already_there', { what: `column of "${table}"`, name: twice });
  const owner = ownerAfter(before.owner, change, drop);
  requireColumns(columns, owner);
  for (const name of drop) driver.exec(`ALTER TABLE ${data} DROP COLUMN ${quote(name)}`);
  for (const column of kept) {
    const type = ownOf(types, column.name);
    if (type && type !== column.type) retype(driver, data, table, column, type);
  }
  // By way of names that nothing has, so that two columns can change places.
  const moves = Object.entries(rename).filter(([from, to]) => from !== to && !drop.includes(from));
  for (const [from] of moves)
    driver.exec(`ALTER TABLE ${data} RENAME COLUMN ${quote(from)} TO ${quote(`moving ${from}`)}`);
  for (const [from, to] of moves)
    driver.exec(`ALTER TABLE ${data} RENAME COLUMN ${quote(`moving ${from}`)} TO ${quote(to)}`);
  for (const [name, type] of Object.entries(add))
    driver.exec(`ALTER TABLE ${data} ADD COLUMN ${quote(name)} ${STORAGE[type].sql}`);
  return { columns, owner };
}

function ownerAfter(owner: string | null, { owner: wanted, rename = {} }: ColumnChange, drop: readonly string[]) {
  if (wanted !== undefined) return wanted;
  if (owner !== null && drop.includes(owner))
    throw refuse(`"${owner}" is the owner column; stop separating callers first`, '/drop');
  return owner === null ? null : (ownOf(rename, owner) ?? owner);
}

/** Gives a column another type, where the value of every row fits it. @throws value_refused with the first row that does not */
function retype(driver: Driver, data: string, table: string, column: Column, type: ColumnType): void {
  const [old, fresh] = [quote(column.name), quote(`other ${column.name}`)];
  driver.exec(`ALTER TABLE ${data} ADD COLUMN ${fresh} ${STORAGE[type].sql}`);
  const write = driver.prepare(`UPDATE ${data} SET ${fresh} = ? WHERE id = ?`);
  const rows = driver.prepare(`SELECT id, ${old} AS value FROM ${data} WHERE ${old} IS NOT NULL`).all() as {
    id: number;
    value: unknown;
  }[];
  for (const { id, value } of rows) {
    const fitting = asType(loaded(column, value), type);
    try {
      write.run(stored(table, { name: column.name, type }, fitting), id);
    } catch (error) {
      if (!(error instanceof PindroError)) throw error;
      throw new PindroError(
        'request_invalid',
        { why: `Row ${id} of "${table}" does not fit: ${error.message}` },
        { at: `/types/${column.name}`, details: { row: id } },
      );
    }
  }
  driver.exec(`ALTER TABLE ${data} DROP COLUMN ${old}`);
  driver.exec(`ALTER TABLE ${data} RENAME COLUMN ${fresh} TO ${old}`);
}

/** The same value as another type writes it, where that loses nothing; else as it is, to be refused. */
function asType(value: Json, type: ColumnType): Json {
  if (type === 'json') return value;
  if (type === 'text' || type === 'date')
    return typeof value === 'string' ? value : type === 'text' ? JSON.stringify(value) : value;
  if (typeof value !== 'string') return value;
  if (type === 'boolean') return value === 'true' ? true : value === 'false' ? false : value;
  const number = Number(value);
  return value.trim() !== '' && String(number) === value.trim() ? number : value;
}
