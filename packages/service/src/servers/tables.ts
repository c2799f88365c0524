import { SPEAKS } from '@pindro/contract';
import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const servers = sqliteTable('servers', {
  name: text('name').primaryKey(),
  url: text('url').notNull(),
  /** How it speaks: Streamable HTTP, or the older HTTP+SSE. */
  speaks: text('speaks', { enum: SPEAKS }).notNull().default('http'),
  credential: text('credential'),
  /** Credentials that go along besides. */
  also: text('also', { mode: 'json' }).notNull().default([]),
  /** Headers that are nobody's secret. */
  headers: text('headers', { mode: 'json' }).notNull().default({}),
  rules: text('rules', { mode: 'json' }).notNull(),
  /** The tools as last seen, so that they are known while the server is away. */
  tools: text('tools', { mode: 'json' }).notNull(),
  about: text('about').notNull(),
  /** What it says to whoever connects. */
  instructions: text('instructions').notNull().default(''),
  seenAt: integer('seen_at'),
});
