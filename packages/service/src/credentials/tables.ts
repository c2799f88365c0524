import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const credentials = sqliteTable('credentials', {
  name: text('name').primaryKey(),
  kind: text('kind').notNull(),
  header: text('header'),
  account: text('account').notNull(),
  sealed: text('sealed').notNull(),
  createdAt: integer('created_at').notNull(),
});
