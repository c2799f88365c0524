import { columnType } from '@pindro/contract';
import { anyJson, type JsonObject } from '@pindro/core';
import { z } from 'zod';
import { defineSort } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/table@1'),
  name: z.string(),
  columns: z.record(z.string(), columnType),
  owner: z.string().optional().describe('Column that separates callers'),
});

export const tables = defineSort<z.infer<typeof shape>>({
  at: 'tables',
  named: 'name',
  shape,
  write: ({ tables }) =>
    Object.fromEntries(
      tables.definitions.list().map(({ name, columns, owner }) => [
        `tables/${name}.yaml`,
        {
          ...{ format: 'pindro/table@1', name },
          columns: Object.fromEntries(columns.map((column) => [column.name, column.type])),
          ...(owner !== null && { owner }),
        },
      ]),
    ),
  keep: ({ name, columns, owner = null }, { tables }) => {
    tables.definitions.become(name, columns, owner);
    return true;
  },
});

const rowsShape = z.strictObject({
  format: z.literal('pindro/rows@1'),
  table: z.string(),
  rows: z.array(z.record(z.string(), anyJson)),
});

/** Maximum number of rows in a file; for more use a backup or CSV. */
const MOST_ROWS = 100_000;

export const rows = defineSort<z.infer<typeof rowsShape>>({
  at: 'rows',
  named: 'table',
  shape: rowsShape,
  write: ({ tables }, wanted) => {
    if (!wanted.rows) return {};
    return Object.fromEntries(
      tables
        .names()
        .map((table): [string, JsonObject[]] => [
          table,
          tables.rows.find({ table, where: [], sort: null, descending: false, limit: MOST_ROWS }),
        ])
        .filter(([, found]) => found.length > 0)
        .map(([table, found]) => [`rows/${table}.yaml`, { format: 'pindro/rows@1', table, rows: found }]),
    );
  },
  keep: ({ table, rows }, { tables }) => {
    tables.replaceRows(table, rows as JsonObject[]);
    return true;
  },
});
