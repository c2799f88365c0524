import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** One-time sign-in links and the sessions that came of them, both by the hash of what the browser holds. */
export const signIns = sqliteTable('sign_ins', {
  hash: text('hash').primaryKey(),
  kind: text('kind').notNull(),
  expiresAt: integer('expires_at').notNull(),
});
