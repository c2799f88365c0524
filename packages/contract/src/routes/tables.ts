import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { jsonObject, page } from './shapes.js';

/** Tables and their rows. */
export const tables = {
  listTables: {
    method: 'GET',
    role: 'viewer',
    path: '/tables',
    about: 'All tables',
    answer: z.object({ items: z.array(r.tableSummary) }),
  },
  putTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables',
    about: 'Makes a table',
    body: z.object({
      name: z.string(),
      columns: z.record(z.string(), r.columnType),
      owner: z
        .string()
        .optional()
        .describe('A text column that holds the caller; each caller then sees and changes only their own rows'),
    }),
    answer: r.tableSummary,
  },
  tableRows: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows',
    about: 'Rows of a table, newest first',
    query: page,
    answer: z.object({
      items: z.array(jsonObject),
      columns: z.array(z.object({ name: z.string(), type: r.columnType })),
      next: z.string().nullable(),
    }),
  },
  addRow: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/rows',
    about: 'Adds a row',
    body: z.object({ row: jsonObject }),
    answer: z.object({ row: jsonObject }),
  },
} as const satisfies Record<string, Route>;
