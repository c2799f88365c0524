import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** What people are asked to decide. It stands with the runs, whose journals go on from it. */
export const approvals = sqliteTable(
  'approvals',
  {
    run: text('run').notNull(),
    path: text('path').notNull(),
    /** The request as the flow made it (JSON). */
    request: text('request').notNull(),
    askedAt: integer('asked_at').notNull(),
    until: integer('until'),
    decision: text('decision'),
    by: text('by').notNull().default(''),
    note: text('note').notNull().default(''),
    decidedAt: integer('decided_at'),
    /** What was sent instead, or what was asked for (JSON). */
    value: text('value'),
    /** What else the answer holds for. */
    standing: text('standing'),
  },
  (table) => [primaryKey({ columns: [table.run, table.path] }), index('approvals_standing').on(table.standing)],
);
