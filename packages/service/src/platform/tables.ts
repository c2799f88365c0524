import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** The latest time that the service knew for certain, so that a clock that is set back meanwhile revives nothing. */
export const clockMarks = sqliteTable('clock_marks', {
  name: text('name').primaryKey(),
  /** In milliseconds since the epoch. */
  at: integer('at').notNull(),
});
