import { sql } from 'drizzle-orm';
import { index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** One row per run. Queried values have columns; the rest is JSON. */
export const runs = sqliteTable(
  'runs',
  {
    /** Ids made later sort later, so that they serve as the order of time. */
    id: text('id').primaryKey(),
    flow: text('flow').notNull(),
    state: text('state').notNull(),
    caller: text('caller').notNull(),
    session: text('session'),
    parentRun: text('parent_run'),
    /** The endpoint through which it was called. */
    endpoint: text('endpoint'),
    /** What the run is from its first moment on (a run head). */
    head: text('head').notNull(),
    /** The full input, encrypted, if parts of it are sensitive. */
    sealed: text('sealed'),
    endedAt: integer('ended_at'),
    /** Result and error, once it has ended. */
    outcome: text('outcome'),
    /** The first page of its record: of a short run that is all. Last, so that lists of runs need not read past it. */
    entries: text('entries').notNull().default('[]'),
    spans: text('spans').notNull().default('[]'),
    /** The hash of the document that ran; null for runs from before documents were kept. */
    document: text('document'),
  },
  (table) => [
    index('runs_by_flow').on(table.flow, table.id),
    index('runs_by_parent').on(table.parentRun).where(sql`parent_run IS NOT NULL`),
    index('runs_by_endpoint').on(table.endpoint, table.id).where(sql`endpoint IS NOT NULL`),
    index('runs_open').on(table.state).where(sql`ended_at IS NULL`),
  ],
);

/**
 * Journal entries and spans after a run's first page, in order, one page per run and commit. Append-only. The run and
 * the sequence identify an entry.
 */
export const pages = sqliteTable(
  'pages',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    run: text('run').notNull(),
    entries: text('entries').notNull(),
    spans: text('spans').notNull(),
  },
  (table) => [index('pages_by_run').on(table.run)],
);

/** By what runs are found again (`marks.ts`), the newest quickly. An index by run would cost every call too much. */
export const marks = sqliteTable('marks', { mark: text('mark').notNull(), run: text('run').notNull() }, (table) => [
  primaryKey({ columns: [table.mark, table.run] }),
]);

/** What the models of a run came to, and of all it began; of runs without models there is none. */
export const spent = sqliteTable('spent', {
  run: text('run').primaryKey(),
  /** Tokens read and written. */
  tokens: integer('tokens').notNull(),
  /** What it cost, where that is known. */
  cost: real('cost').notNull(),
});

/** Location of the text of a run in the full-text index `texts`. */
export const textRows = sqliteTable('text_rows', {
  run: text('run').primaryKey(),
  row: integer('row').notNull(),
});

/** Documents that ran, each once, by the SHA-256 of their JSON. */
export const documents = sqliteTable('documents', {
  hash: text('hash').primaryKey(),
  body: text('body').notNull(),
  /** When a run of it last began, to the hour; no run that began earlier is all that needs it. */
  usedAt: integer('used_at').notNull(),
});

/** What the diagnosis found in a run, once it and all it began have ended. In a table of its own, for quick lists. */
export const findings = sqliteTable('findings', {
  run: text('run').primaryKey(),
  /** The first finding in a line. */
  title: text('title'),
  /** All of them, as JSON with the version of their form. */
  body: text('body').notNull(),
  /** Version of the rules; findings of earlier ones are evaluated again. */
  version: integer('version').notNull().default(1),
  /** The gravest of them: what rule found it, and how grave it is. */
  code: text('code'),
  severity: text('severity'),
});

/** In which runs that nobody but a caller began a trouble was seen. */
export const sightings = sqliteTable(
  'sightings',
  {
    fingerprint: text('fingerprint').notNull(),
    run: text('run').notNull(),
    code: text('code').notNull(),
    severity: text('severity').notNull(),
    flow: text('flow').notNull(),
    tool: text('tool'),
    caller: text('caller').notNull(),
    revision: integer('revision'),
    /** When the run began, in milliseconds since the epoch. */
    at: integer('at').notNull(),
    /** Tokens that were spent in vain. */
    tokens: integer('tokens').notNull().default(0),
  },
  (table) => [
    primaryKey({ columns: [table.fingerprint, table.run] }),
    index('sightings_by_time').on(table.fingerprint, table.at),
    index('sightings_by_run').on(table.run),
    index('sightings_by_code').on(table.code, table.run),
  ],
);

/** What went into and came out of steps, where it is long: each value once, by the SHA-256 of its JSON. */
export const payloads = sqliteTable('payloads', {
  hash: text('hash').primaryKey(),
  /** In front of the body, so that adding them up need not read past it. */
  bytes: integer('bytes').notNull(),
  body: text('body').notNull(),
});

/** Number and size of rows, maintained by triggers, because counting would scan all. */
export const recordTotals = sqliteTable('record_totals', {
  name: text('name', { enum: ['runs', 'payloads'] }).primaryKey(),
  count: integer('count').notNull(),
  bytes: integer('bytes').notNull(),
});

/** Which runs show a payload. */
export const payloadUses = sqliteTable(
  'payload_uses',
  { run: text('run').notNull(), hash: text('hash').notNull() },
  (table) => [primaryKey({ columns: [table.run, table.hash] }), index('payload_uses_by_hash').on(table.hash)],
);
