import { integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Sums of the runs that ended, by the hour in which they began and by what took part (`flow:…`, `tool:…`). */
export const metrics = sqliteTable(
  'figures',
  {
    hour: integer('hour').notNull(),
    what: text('what').notNull(),
    runs: integer('runs').notNull(),
    failed: integer('failed').notNull(),
    tokens: integer('tokens').notNull(),
    cost: real('cost').notNull(),
    /** How many took how long, as counts by bound (`metrics/histogram.ts`). */
    histogram: text('histogram').notNull(),
  },
  (table) => [primaryKey({ columns: [table.hour, table.what] })],
);
