import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** OpenAPI documents that flows were made from. */
export const documents = sqliteTable('documents', {
  name: text('name').primaryKey(),
  /** Where it was read, or null when it was handed in. */
  url: text('url'),
  title: text('title').notNull(),
  version: text('version').notNull(),
  credential: text('credential'),
  /** Base address of the requests. */
  base: text('base').notNull(),
  /** Each chosen operation: the flow made from it, and the document as it was made, to tell later edits apart (JSON). */
  made: text('made', { mode: 'json' }).notNull(),
  readAt: integer('read_at').notNull(),
});
