import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** The tables; the rows of each are in a SQLite table `data_NAME`. */
export const tables = sqliteTable('tables', {
  name: text('name').primaryKey(),
  columns: text('columns', { mode: 'json' }).$type<{ name: string; type: string }[]>().notNull(),
  /** The column that holds the caller a row belongs to, where callers see and change only their own rows. */
  owner: text('owner'),
  createdAt: integer('created_at').notNull(),
});
