import { z } from 'zod';
import { resourceRoutes } from '../resource/routes.js';
import { row } from '../resource/row.js';
import { table } from '../resource/table.js';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { jsonObject, page } from './shapes.js';

const columns = z.record(z.string(), r.columnType);
const owner = z.string().describe('Text column with the caller; each caller then sees and changes only their own rows');
const listing = page.extend({
  skip: z.coerce.number().int().min(0).optional().describe('Number of rows to skip, instead of a cursor'),
  sort: z.string().optional().describe('Column to sort by; up to 200,000 matching rows'),
  descending: z.stringbool().default(false),
  search: z.string().max(200).default('').describe('Only rows that contain this; in a long table, the nearest 100,000'),
  oldest: z.stringbool().default(false).describe('Oldest first'),
  where: z.string().max(10_000).optional().describe('Conditions of a table step, as JSON, such as {"hut":"larch"}'),
});

/** Tables and their rows. */
export const tables = {
  listTables: {
    method: 'GET',
    role: 'viewer',
    path: '/tables',
    about: 'Lists all tables',
    query: o.searching,
    answer: z.object({ items: z.array(r.tableSummary) }),
  },
  getTable: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name',
    about: 'Returns one table',
    answer: r.tableSummary,
  },
  createTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables',
    about: 'Creates a table',
    body: z.object({ name: z.string(), columns, owner: owner.optional() }),
    answer: r.tableSummary,
  },
  updateTable: {
    method: 'PUT',
    role: 'builder',
    path: '/tables/:name',
    about: 'Changes the columns of a table atomically; a type change requires that every row fits it',
    body: z.object({
      owner: owner.nullable().optional().describe('null stops separating callers'),
      add: columns.optional().describe('New columns, empty in existing rows'),
      rename: z.record(z.string(), z.string()).optional().describe('New names by old ones; flows follow'),
      types: columns.optional().describe('New types by column'),
      drop: z.array(z.string()).optional().describe('Columns to remove, including their values'),
    }),
    answer: r.tableSummary.extend({ changed: z.array(z.string()).describe('Flows updated to the new name') }),
  },
  ...resourceRoutes(table),
  copyTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/copy',
    about: 'Creates a table with the same columns, and optionally the same rows',
    body: z.object({ to: z.string(), rows: z.boolean().default(false) }),
    answer: r.tableSummary,
  },
  tableRows: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows',
    about: 'Lists rows of a table, newest first',
    query: listing,
    answer: z.object({
      items: z.array(jsonObject),
      columns: z.array(z.object({ name: z.string(), type: r.columnType })),
      next: z.string().nullable(),
      count: z.number().describe('Total number of matching rows'),
      searched: z.number().nullable().describe('Number of rows searched for the text, if not all'),
    }),
  },
  rowHistory: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows/:row/history',
    about: 'Returns the history of a row, most recent first: runs with their step, and people',
    answer: z.object({
      items: z.array(
        z.object({
          at: z.iso.datetime(),
          did: z.enum(['added', 'changed']),
          by: z.string().describe('The person, or the caller of the run'),
          run: z.string().nullable(),
          step: z.string().nullable(),
          columns: z.array(z.string()).describe('Values that were set'),
        }),
      ),
    }),
  },
  getRow: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows/:row',
    about: 'Returns one row',
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
    about: 'Adds rows, or updates those with the same value in a key column, atomically',
    body: z.object({
      rows: z.array(jsonObject).min(1).max(1000),
      key: z.string().optional().describe('A column, or id: rows with the same value are updated, others added'),
    }),
    answer: z.object({ added: z.number(), changed: z.number() }),
  },
  updateRow: {
    method: 'PUT',
    role: 'builder',
    path: '/tables/:name/rows/:row',
    about: 'Updates values of a row; other values remain',
    body: z.object({ set: jsonObject }),
    answer: z.object({ row: jsonObject }),
  },
  ...resourceRoutes(row),
} as const satisfies Record<string, Route>;
