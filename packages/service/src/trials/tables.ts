import { integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Results of steps that try-outs use again instead of doing the step. Live runs never look here. */
export const held = sqliteTable(
  'held',
  {
    flow: text('flow').notNull(),
    step: text('step').notNull(),
    /** Output and branch, encrypted: a result may be sensitive. */
    sealed: text('sealed').notNull(),
    run: text('run').notNull(),
    heldAt: integer('held_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.flow, table.step] })],
);

/** Inputs that are kept under a name for trying a flow; the one without a name is the last one used. */
export const samples = sqliteTable(
  'samples',
  {
    flow: text('flow').notNull(),
    name: text('name').notNull(),
    sealed: text('sealed').notNull(),
    usedAt: integer('used_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.flow, table.name] })],
);
