import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const runs = sqliteTable(
  'runs',
  {
    id: text('id').primaryKey(),
    traceId: text('trace_id').notNull(),
    parentSpan: text('parent_span'),
    parentRun: text('parent_run'),
    flow: text('flow').notNull(),
    revision: integer('revision'),
    stage: text('stage').notNull(),
    entry: text('entry').notNull(),
    caller: text('caller').notNull(),
    attributes: text('attributes').notNull(),
    session: text('session'),
    input: text('input').notNull(),
    /** The whole input, sealed, where parts of it are sensitive. */
    sealed: text('sealed'),
    state: text('state').notNull(),
    startedAt: integer('started_at').notNull(),
    endedAt: integer('ended_at'),
    result: text('result'),
    error: text('error'),
  },
  (table) => [
    index('runs_by_start').on(table.startedAt),
    index('runs_by_parent').on(table.parentRun),
    index('runs_by_flow').on(table.flow, table.startedAt),
    index('runs_by_session').on(table.session),
  ],
);

export const journal = sqliteTable(
  'journal',
  {
    run: text('run').notNull(),
    sequence: integer('sequence').notNull(),
    at: integer('at').notNull(),
    type: text('type').notNull(),
    body: text('body').notNull(),
  },
  (table) => [primaryKey({ columns: [table.run, table.sequence] })],
);

export const spans = sqliteTable(
  'spans',
  {
    spanId: text('span_id').primaryKey(),
    run: text('run').notNull(),
    start: integer('start').notNull(),
    body: text('body').notNull(),
  },
  (table) => [index('spans_by_run').on(table.run)],
);
