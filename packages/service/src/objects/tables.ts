import { integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Names that things went by: they still lead there. */
export const formerNames = sqliteTable(
  'former_names',
  { what: text('what').notNull(), former: text('former').notNull(), name: text('name').notNull() },
  (table) => [primaryKey({ columns: [table.what, table.former] })],
);

/** Removed things that can still be restored. */
export const removals = sqliteTable('removals', {
  id: text('id').primaryKey(),
  what: text('what').notNull(),
  name: text('name').notNull(),
  by: text('removed_by').notNull(),
  removedAt: integer('removed_at').notNull(),
  /** Its rows, and those that go with it, by table (JSON). */
  rows: text('rows', { mode: 'json' }).$type<TakenRows[]>().notNull(),
  /** Rows and tables that were only put aside under another name (JSON). */
  aside: text('aside', { mode: 'json' }).$type<PutAside[]>().notNull(),
  /** Who may put it back. */
  needs: text('needs', { enum: ['operator', 'builder', 'owner'] })
    .notNull()
    .default('owner'),
  /** Things to notify once it is restored (JSON). */
  tells: text('tells', { mode: 'json' }).$type<[what: string, name: string][]>().notNull(),
});

export interface TakenRows {
  table: string;
  rows: Record<string, unknown>[];
}
/** Without a column it is the table itself that goes by another name. */
export interface PutAside {
  table: string;
  column: string | null;
  from: string;
  to: string;
}
