import { type Program, type ServerLimits, type ServerNetwork, SPEAKS } from '@pindro/contract';
import { DEFAULT_TRANSPORT, type Held, type JsonObject, type ToolDescription, WATCHES } from '@pindro/core';
import { index, integer, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const servers = sqliteTable('servers', {
  name: text('name').primaryKey(),
  /** Empty where it is a program of this machine. */
  url: text('url').notNull(),
  program: text('program', { mode: 'json' }).$type<Program | null>(),
  /** The program that somebody let run, as JSON: one that came out of a file is not run before. */
  allowed: text('allowed'),
  /** Authorities, a certificate and a proxy of its own. */
  network: text('network', { mode: 'json' }).$type<ServerNetwork>().notNull().default({}),
  limits: text('limits', { mode: 'json' }).$type<ServerLimits>().notNull().default({}),
  speaks: text('speaks', { enum: SPEAKS }).notNull().default(DEFAULT_TRANSPORT),
  /** Whether it is disabled: neither contacted nor called, with its settings preserved. */
  off: integer('off', { mode: 'boolean' }).notNull().default(false),
  credential: text('credential'),
  /** Additional credentials. */
  also: text('also', { mode: 'json' }).notNull().default([]),
  /** Headers that are nobody's secret. */
  headers: text('headers', { mode: 'json' }).notNull().default({}),
  rules: text('rules', { mode: 'json' }).notNull(),
  /** What becomes of changes of its tools: see `core/watch`. */
  watch: text('watch', { enum: WATCHES }).notNull().default('flagged'),
  /** The tools that were accepted; null: as last seen. */
  accepted: text('accepted', { mode: 'json' }).$type<ToolDescription[] | null>(),
  /** Tools on hold, with the reason. */
  held: text('held', { mode: 'json' }).$type<Record<string, Held>>().notNull().default({}),
  /** Since when tools are as they are that appeared or changed after it was attached, in milliseconds since the epoch. */
  toolSince: text('tool_since', { mode: 'json' }).$type<Record<string, number>>().notNull().default({}),
  /** Tools as last reviewed, if they changed since without being on hold; null: as accepted. */
  reviewed: text('reviewed', { mode: 'json' }).$type<ToolDescription[] | null>(),
  /** The tools as last seen, so that they are known while the server is away. */
  tools: text('tools', { mode: 'json' }).notNull(),
  about: text('about').notNull(),
  /** What it says to whoever connects. */
  instructions: text('instructions').notNull().default(''),
  seenAt: integer('seen_at'),
});

/** The tool lists that a server had, one after the other. */
export const serverHistory = sqliteTable(
  'server_lists',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    server: text('server').notNull(),
    at: integer('at').notNull(),
    /** What happened: it was attached, another list was seen, or somebody accepted or refused some of it. */
    what: text('what', { enum: ['attached', 'seen', 'accepted', 'refused'] }).notNull(),
    /** Who did it, where a person did. */
    by: text('by'),
    tools: text('tools', { mode: 'json' }).$type<ToolDescription[]>().notNull(),
    /** Names of the tools it was about. */
    about: text('about', { mode: 'json' }).$type<string[]>().notNull().default([]),
  },
  (table) => [index('server_lists_server').on(table.server, table.id)],
);

/** The model that reviews tools, where an owner chose one. */
export const toolReviewChoice = sqliteTable('tool_review_choice', {
  name: text('name').primaryKey(),
  model: text('model').notNull(),
});

/** What a model found about tools, by the SHA-256 of what it was shown. */
export const toolReviews = sqliteTable('tool_reviews', {
  hash: text('hash').primaryKey(),
  server: text('server').notNull(),
  tool: text('tool').notNull(),
  model: text('model').notNull(),
  harmful: integer('harmful', { mode: 'boolean' }).notNull(),
  why: text('why').notNull(),
  tokens: integer('tokens').notNull(),
  cost: real('cost').notNull(),
  at: integer('at').notNull(),
});

/** Calls by hand that were kept. */
export const serverSamples = sqliteTable('server_samples', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  server: text('server').notNull(),
  tool: text('tool').notNull(),
  name: text('name').notNull(),
  arguments: text('arguments', { mode: 'json' }).$type<JsonObject>().notNull(),
  at: integer('at').notNull(),
});

/** Calls of tools, each with how it went, for the pages of their servers. */
export const serverCalls = sqliteTable(
  'server_calls',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    server: text('server').notNull(),
    tool: text('tool').notNull(),
    at: integer('at').notNull(),
    /** How long it took, in milliseconds. */
    took: integer('took').notNull(),
    /** The error code; null on success. */
    code: text('code'),
    /** The run that it belongs to; null where it was called by hand. */
    run: text('run'),
    /** A caller's own credential, if one was used. */
    credential: text('credential'),
  },
  (table) => [index('server_calls_server').on(table.server, table.id)],
);
