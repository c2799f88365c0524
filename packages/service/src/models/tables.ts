import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const models = sqliteTable('models', {
  name: text('name').primaryKey(),
  dialect: text('dialect').notNull(),
  base: text('base').notNull(),
  model: text('model').notNull(),
  credential: text('credential'),
  settings: text('settings', { mode: 'json' }).notNull(),
  testedAt: integer('tested_at'),
  trouble: text('trouble'),
});
