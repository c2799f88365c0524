import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const credentials = sqliteTable('credentials', {
  name: text('name').primaryKey(),
  kind: text('kind').notNull(),
  header: text('header'),
  account: text('account').notNull(),
  sealed: text('sealed').notNull(),
  /** Where it may go, as origins; null until it is first used somewhere. */
  origins: text('origins', { mode: 'json' }).$type<string[] | null>(),
  createdAt: integer('created_at').notNull(),
});
