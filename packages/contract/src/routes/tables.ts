import { z } from 'zod';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { jsonObject, page } from './shapes.js';

const columns = z.record(z.string(), r.columnType);
const owner = z
  .string()
  .describe('A text column that holds the caller; each caller then sees and changes only their own rows');
const listing = page.extend({
  skip: z.coerce.number().int().min(0).optional().describe('Leaves so many out, instead of going on from a cursor'),
  sort: z.string().optional().describe('Column to sort by; only where no more than 200,000 rows fit'),
  descending: z.stringbool().default(false),
  search: z
    .string()
    .max(200)
    .default('')
    .describe('Only rows with this in one of their values; of a long table the nearest 100,000'),
  oldest: z.stringbool().default(false).describe('The oldest first'),
  where: z.string().max(10_000).optional().describe('Conditions of a table step, as JSON, such as {"hut":"larch"}'),
});

/** Tables and their rows. */
export const tables = {
  listTables: {
    method: 'GET',
    role: 'viewer',
    path: '/tables',
    about: 'All tables',
    query: o.searching,
    answer: z.object({ items: z.array(r.tableSummary) }),
  },
  getTable: { method: 'GET', role: 'viewer', path: '/tables/:name', about: 'One table', answer: r.tableSummary },
  putTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables',
    about: 'Makes a table',
    body: z.object({ name: z.string(), columns, owner: owner.optional() }),
    answer: r.tableSummary,
  },
  changeTable: {
    method: 'PUT',
    role: 'builder',
    path: '/tables/:name',
    about: 'Changes the columns of a table, all of it or nothing; a type only where every row fits it',
    body: z.object({
      owner: owner.nullable().optional().describe('null: callers are not kept apart any more'),
      add: columns.optional().describe('New columns, empty in the rows there are'),
      rename: z.record(z.string(), z.string()).optional().describe('New names by old ones; flows follow'),
      types: columns.optional().describe('Other types, by column'),
      drop: z.array(z.string()).optional().describe('Columns that go, with what they hold'),
    }),
    answer: r.tableSummary.extend({ changed: z.array(z.string()).describe('Flows that follow a new name') }),
  },
  removeTable: o.removing('/tables/:name', 'builder', 'Removes a table with its rows'),
  renameTable: o.renaming('/tables/:name', 'builder', 'table'),
  copyTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/copy',
    about: 'Makes a table with the same columns, and the same rows where asked for',
    body: z.object({ to: z.string(), rows: z.boolean().default(false) }),
    answer: r.tableSummary,
  },
  tableUses: o.using('/tables/:name', 'table'),
  tableRows: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows',
    about: 'Rows of a table, newest first',
    query: listing,
    answer: z.object({
      items: z.array(jsonObject),
      columns: z.array(z.object({ name: z.string(), type: r.columnType })),
      next: z.string().nullable(),
      count: z.number().describe('How many rows fit in all'),
      searched: z.number().nullable().describe('In how many rows a text was looked for, where not in all of them'),
    }),
  },
  rowHistory: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows/:row/history',
    about: 'Who made and changed a row, the latest first: runs with their step, and people',
    answer: z.object({
      items: z.array(
        z.object({
          at: z.iso.datetime(),
          did: z.enum(['added', 'changed']),
          by: z.string().describe('The person, or the caller of the run'),
          run: z.string().nullable(),
          step: z.string().nullable(),
          columns: z.array(z.string()).describe('What was set'),
        }),
      ),
    }),
  },
  getRow: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows/:row',
    about: 'One row',
    answer: z.object({ row: jsonObject }),
  },
  addRow: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/rows',
    about: 'Adds a row',
    body: z.object({ row: jsonObject }),
    answer: z.object({ row: jsonObject }),
  },
  addRows: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/rows/batch',
    about: 'Adds rows, or updates those with the same value in a key column, all of them or none',
    body: z.object({
      rows: z.array(jsonObject).min(1).max(1000),
      key: z.string().optional().describe('A column, or id: rows with the same value are updated, others added'),
    }),
    answer: z.object({ added: z.number(), changed: z.number() }),
  },
  changeRow: {
    method: 'PUT',
    role: 'builder',
    path: '/tables/:name/rows/:row',
    about: 'Changes values of a row; what is not named stays',
    body: z.object({ set: jsonObject }),
    answer: z.object({ row: jsonObject }),
  },
  removeRow: o.removing('/tables/:name/rows/:row', 'builder', 'Removes a row'),
} as const satisfies Record<string, Route>;
