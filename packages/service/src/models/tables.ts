import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const models = sqliteTable('models', {
  name: text('name').primaryKey(),
  dialect: text('dialect').notNull(),
  base: text('base').notNull(),
  model: text('model').notNull(),
  credential: text('credential'),
  /** Further credentials, which take turns with the first. */
  keys: text('keys', { mode: 'json' }).$type<string[]>(),
  fallback: text('fallback'),
  settings: text('settings', { mode: 'json' }).notNull(),
  testedAt: integer('tested_at'),
  trouble: text('trouble'),
});
