import { index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';

/** Entry points other than tool calls. */
export const entries = sqliteTable(
  'entries',
  {
    id: text('id').primaryKey(),
    flow: text('flow').notNull(),
    /** hook, form, chat or schedule. */
    kind: text('kind').notNull(),
    /** Its own part of the address; empty for a schedule, which has none. */
    path: text('path').notNull(),
    on: integer('on', { mode: 'boolean' }).notNull(),
    /** What the kind takes (JSON). */
    settings: text('settings', { mode: 'json' }).notNull(),
    /** The signing secret, encrypted. */
    sealed: text('sealed'),
    createdAt: integer('created_at').notNull(),
    /** When it last let somebody in, or was last due. */
    usedAt: integer('used_at'),
  },
  (table) => [uniqueIndex('entries_by_path').on(table.kind, table.path)],
);

/** Ids of signed messages that a hook has taken, as long as their signatures hold: each is taken once. */
export const hookMessages = sqliteTable(
  'hook_messages',
  { entry: text('entry').notNull(), id: text('id').notNull(), at: integer('at').notNull() },
  (table) => [primaryKey({ columns: [table.entry, table.id] }), index('hook_messages_by_time').on(table.at)],
);
