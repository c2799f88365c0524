import { index, integer, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** The same problem across runs. */
export const problems = sqliteTable(
  'problems',
  {
    fingerprint: text('fingerprint').primaryKey(),
    code: text('code').notNull(),
    severity: text('severity').notNull(),
    flow: text('flow').notNull(),
    /** As it was seen last (a finding). */
    finding: text('finding').notNull(),
    times: integer('times').notNull(),
    firstRun: text('first_run').notNull(),
    firstAt: integer('first_at').notNull(),
    lastRun: text('last_run').notNull(),
    lastAt: integer('last_at').notNull(),
    /** The revision of the flow with which it was first seen; null for a draft. */
    sinceRevision: integer('since_revision'),
    state: text('state').notNull().default('open'),
    /** Until when it is expected, in milliseconds since the epoch. */
    until: integer('until'),
    note: text('note').notNull().default(''),
    by: text('by'),
    changedAt: integer('changed_at'),
    /** The tool server it was met at, where there is one. */
    server: text('server'),
    /** What was spent in vain for it: rounds of models, their tokens, and money in the price's currency. */
    rounds: integer('rounds').notNull().default(0),
    tokens: integer('tokens').notNull().default(0),
    money: real('money').notNull().default(0),
  },
  (table) => [index('problems_by_last').on(table.lastAt)],
);
