import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** The latest time that was certain, so that setting the clock back revives nothing. */
export const clockMarks = sqliteTable('clock_marks', {
  name: text('name').primaryKey(),
  /** In milliseconds since the epoch. */
  at: integer('at').notNull(),
});
