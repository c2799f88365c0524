import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const endpoints = sqliteTable('endpoints', {
  name: text('name').primaryKey(),
  document: text('document', { mode: 'json' }).notNull(),
  updatedAt: integer('updated_at').notNull(),
});
