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
  /** The only tools it opens, as a list; null means all of its endpoints. */
  tools: text('tools', { mode: 'json' }).$type<string[] | null>(),
  readOnly: integer('read_only', { mode: 'boolean' }).notNull().default(false),
  perMinute: integer('per_minute'),
  /** Whether its holder may read and propose flows on the workshop. */
  propose: integer('propose', { mode: 'boolean' }).notNull().default(false),
  /** Credentials of its holder's own, by the tool server they are for. */
  credentials: text('credentials', { mode: 'json' }).$type<Record<string, string>>().notNull().default({}),
  expiresAt: integer('expires_at'),
  manage: integer('manage', { mode: 'boolean' }).notNull(),
  createdAt: integer('created_at').notNull(),
  lastUsedAt: integer('last_used_at'),
  revokedAt: integer('revoked_at'),
});
