import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** One row: whether the workshop is on, and which flows are open to it. */
export const workshop = sqliteTable('workshop', {
  id: integer('id').primaryKey(),
  on: integer('is_on', { mode: 'boolean' }).notNull(),
  flows: text('flows', { mode: 'json' }).$type<string[]>().notNull(),
});

/** Flows as assistants would have them, until a person takes or declines them. */
export const proposals = sqliteTable(
  'proposals',
  {
    id: text('id').primaryKey(),
    flow: text('flow').notNull(),
    text: text('text').notNull(),
    why: text('why').notNull(),
    /** The key it came with, and who that key calls for. */
    key: text('key').notNull(),
    caller: text('caller').notNull(),
    client: text('client').notNull(),
    createdAt: integer('created_at').notNull(),
    state: text('state').$type<'open' | 'taken' | 'declined'>().notNull(),
    /** What the person who settled it said, and who that was. */
    note: text('note').notNull().default(''),
    settledBy: text('settled_by'),
    settledAt: integer('settled_at'),
  },
  (table) => [index('proposals_by_state').on(table.state, table.createdAt)],
);
