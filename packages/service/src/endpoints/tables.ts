import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const endpoints = sqliteTable('endpoints', {
  name: text('name').primaryKey(),
  document: text('document', { mode: 'json' }).notNull(),
  updatedAt: integer('updated_at').notNull(),
});

/** Sessions of clients, so that they survive a restart. */
export const sessions = sqliteTable('mcp_sessions', {
  /** By the hash of what the client holds. */
  hash: text('hash').primaryKey(),
  endpoint: text('endpoint').notNull(),
  key: text('key').notNull(),
  /** What the client said of itself as it began: name, version, capabilities and the version of the protocol. */
  client: text('client', { mode: 'json' }).notNull(),
  createdAt: integer('created_at').notNull(),
  lastUsedAt: integer('last_used_at').notNull(),
});

/** Answers that clients wait for on a stream, so that they can be had after the service was started again. */
export const callStreams = sqliteTable('mcp_call_streams', {
  id: text('id').primaryKey(),
  /** The hash of the session it belongs to. */
  session: text('session').notNull(),
  /** The id of the request it answers, as JSON. */
  request: text('request').notNull(),
  tool: text('tool').notNull(),
  run: text('run').notNull(),
  createdAt: integer('created_at').notNull(),
});
