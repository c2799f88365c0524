import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const credentials = sqliteTable('credentials', {
  name: text('name').primaryKey(),
  kind: text('kind').notNull(),
  header: text('header'),
  account: text('account').notNull(),
  sealed: text('sealed').notNull(),
  /** Where its value is read when it is used, instead of being kept. */
  source: text('source', { mode: 'json' }).$type<{ environment: string } | { file: string } | null>(),
  /** The previous secret, encrypted, and how long it is still tried if the new one is rejected. */
  former: text('former'),
  formerUntil: integer('former_until'),
  /** Where it may go, as origins; null until it is first used somewhere. */
  origins: text('origins', { mode: 'json' }).$type<string[] | null>(),
  createdAt: integer('created_at').notNull(),
  usedAt: integer('used_at'),
  /** What came of its last use. */
  used: text('used', { enum: ['taken', 'refused'] }),
});
