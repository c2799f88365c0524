import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const memories = sqliteTable('memories', {
  key: text('key').primaryKey(),
  turns: text('turns', { mode: 'json' }).notNull(),
  updatedAt: integer('updated_at').notNull(),
});
