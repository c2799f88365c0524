import { didYouMean, type Filter, isObject, type Json, PindroError, type Where } from '@pindro/core';
import { type Column, quote, stored } from './column.js';

/** A condition of SQL with the values it binds; an empty one holds for every row. */
export interface Conditions {
  sql: string;
  values: unknown[];
}

const OPERATORS: Record<string, string> = { gt: '>', gte: '>=', lt: '<', lte: '<=', not: 'IS NOT' };
const ROW_ID: Column = { name: 'id', type: 'whole' };

/** The column of a name, the id of rows among them. @throws not_found */
export function columnOf(table: string, columns: readonly Column[], name: string): Column {
  const column = name === ROW_ID.name ? ROW_ID : columns.find((candidate) => candidate.name === name);
  if (column) return column;
  const known = columns.map((one) => one.name);
  throw new PindroError('not_found', { what: `column of "${table}"`, name, suggestion: didYouMean(name, known) });
}

/** Rows that fit any of the alternatives. @throws not_found, value_refused */
export function conditionsOf(table: string, columns: readonly Column[], filter: Filter): Conditions {
  const alternatives = filter.map((where) => allOf(table, columns, where));
  if (alternatives.length === 0 || alternatives.some(({ sql }) => sql === '')) return { sql: '', values: [] };
  return {
    sql: ` WHERE ${alternatives.map(({ sql }) => `(${sql})`).join(' OR ')}`,
    values: alternatives.flatMap(({ values }) => values),
  };
}

function allOf(table: string, columns: readonly Column[], where: Where): Conditions {
  const parts: string[] = [];
  const values: unknown[] = [];
  for (const [name, wanted] of Object.entries(where)) {
    const column = columnOf(table, columns, name);
    const [operator, operand] = isObject(wanted) ? Object.entries(wanted)[0]! : ['is', wanted];
    if (operator === 'in') {
      const list = operand as Json[];
      parts.push(list.length === 0 ? '0' : `${quote(name)} IN (${list.map(() => '?').join(', ')})`);
      values.push(...list.map((value) => stored(table, column, value, '/where')));
    } else if (operator === 'contains') {
      parts.push(`instr(lower(${quote(name)}), lower(?)) > 0`);
      values.push(operand);
    } else {
      parts.push(`${quote(name)} ${OPERATORS[operator] ?? 'IS'} ?`);
      values.push(stored(table, column, operand as Json, '/where'));
    }
  }
  return { sql: parts.join(' AND '), values };
}
