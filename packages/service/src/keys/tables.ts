import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const keys = sqliteTable('keys', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  beginning: text('beginning').notNull(),
  caller: text('caller').notNull(),
  attributes: text('attributes', { mode: 'json' }).notNull(),
  stage: text('stage').notNull(),
  endpoints: text('endpoints', { mode: 'json' }).$type<string[]>().notNull(),
  manage: integer('manage', { mode: 'boolean' }).notNull(),
  createdAt: integer('created_at').notNull(),
  lastUsedAt: integer('last_used_at'),
  revokedAt: integer('revoked_at'),
});
