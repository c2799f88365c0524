import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/**
 * Every change of a table by a run, entered in the same transaction as the rows: what a step did and what the record
 * says of it cannot part. An entry is kept until the record has the run's end.
 */
export const ledger = sqliteTable(
  'ledger',
  {
    /** `run/path/attempt`. */
    key: text('key').primaryKey(),
    run: text('run').notNull(),
    at: integer('at').notNull(),
    /** What the step was answered (a table answer). */
    outcome: text('outcome').notNull(),
  },
  (table) => [index('ledger_by_run').on(table.run)],
);
