import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Who may use the console. */
export const people = sqliteTable('people', {
  name: text('name').primaryKey(),
  role: text('role').notNull(),
  /** scrypt, as `salt:hash`; null for who signs in by links alone. */
  password: text('password'),
  createdAt: integer('created_at').notNull(),
});

/** One-time sign-in links and the sessions that came of them, both by the hash of what the browser holds. */
export const signIns = sqliteTable('sign_ins', {
  hash: text('hash').primaryKey(),
  kind: text('kind').notNull(),
  person: text('person').notNull().default('owner'),
  expiresAt: integer('expires_at').notNull(),
});
