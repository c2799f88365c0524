import { GRANTS } from '@pindro/core';
import { sql } from 'drizzle-orm';
import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Requests for approval. They are stored with the runs, whose journals resume from them. */
export const approvals = sqliteTable(
  'approvals',
  {
    run: text('run').notNull(),
    path: text('path').notNull(),
    /** The request as the flow made it (JSON). */
    request: text('request').notNull(),
    askedAt: integer('asked_at').notNull(),
    until: integer('until'),
    decision: text('decision'),
    by: text('by').notNull().default(''),
    note: text('note').notNull().default(''),
    decidedAt: integer('decided_at'),
    /** What was sent instead, or what was asked for (JSON). */
    value: text('value'),
    /** Of an earlier version: what else the answer held for, by the name of a tool. It covers nothing any more. */
    standing: text('standing'),
    /** What an approval covers, and until when. */
    grant: text('grant_scope'),
    grantedUntil: integer('granted_until'),
  },
  (table) => [
    primaryKey({ columns: [table.run, table.path] }),
    index('approvals_standing').on(table.standing),
    index('approvals_open').on(table.askedAt).where(sql`${table.decision} IS NULL`),
  ],
);

/** Approvals that cover more than one call. They expire, or somebody revokes them. */
export const standingApprovals = sqliteTable(
  'standing_approvals',
  {
    id: text('id').primaryKey(),
    /** SHA-256 of what it covers: the place of the tool, its origin and schema, the caller, the conversation. */
    key: text('key').notNull(),
    grant: text('grant_scope', { enum: GRANTS }).notNull(),
    flow: text('flow').notNull(),
    tool: text('tool').notNull(),
    origin: text('origin').notNull(),
    caller: text('caller').notNull(),
    /** The run and the step in which it was given. */
    run: text('run').notNull(),
    path: text('path').notNull(),
    by: text('by').notNull(),
    note: text('note').notNull(),
    at: integer('at').notNull(),
    until: integer('until').notNull(),
    revokedBy: text('revoked_by'),
    revokedAt: integer('revoked_at'),
  },
  (table) => [index('standing_approvals_key').on(table.key), index('standing_approvals_until').on(table.until)],
);
