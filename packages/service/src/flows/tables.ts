import { integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const flows = sqliteTable('flows', {
  name: text('name').primaryKey(),
  /** The draft as it was written, comments and all. */
  text: text('text').notNull(),
  document: text('document', { mode: 'json' }).notNull(),
  live: integer('live'),
  updatedAt: integer('updated_at').notNull(),
});

export const revisions = sqliteTable(
  'revisions',
  {
    flow: text('flow').notNull(),
    revision: integer('revision').notNull(),
    text: text('text').notNull(),
    document: text('document', { mode: 'json' }).notNull(),
    /** The note of a published version. */
    note: text('note').notNull().default(''),
    publishedAt: integer('published_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.flow, table.revision] })],
);
