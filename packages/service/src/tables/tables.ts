import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Which tables there are; the rows of each stand in a table of SQLite of their own, named `data_NAME`. */
export const tables = sqliteTable('tables', {
  name: text('name').primaryKey(),
  columns: text('columns', { mode: 'json' }).$type<{ name: string; type: string }[]>().notNull(),
  /** The column that holds the caller a row belongs to, where callers see and change only their own rows. */
  owner: text('owner'),
  createdAt: integer('created_at').notNull(),
});
