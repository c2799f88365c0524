import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** What runs are looked for by, kept under a name for everybody of the workspace. */
export const runFilters = sqliteTable('run_filters', {
  name: text('name').primaryKey(),
  query: text('query', { mode: 'json' }).$type<Record<string, string>>().notNull(),
  by: text('by').notNull(),
  at: integer('at').notNull(),
});
