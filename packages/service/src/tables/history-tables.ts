import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** What was done to rows, and by whom: entered with the rows, kept as long as runs that failed. */
export const rowHistory = sqliteTable(
  'row_history',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    table: text('table_name').notNull(),
    row: integer('row_id').notNull(),
    at: integer('at').notNull(),
    /** `added` or `changed`. */
    did: text('did').notNull(),
    /** The person, or the caller of the run. */
    by: text('by_whom').notNull(),
    run: text('run'),
    step: text('step'),
    /** The columns that were set, as JSON. */
    columns: text('columns').notNull(),
  },
  (table) => [index('row_history_by_row').on(table.table, table.row), index('row_history_by_time').on(table.at)],
);
