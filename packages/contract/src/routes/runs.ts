import { exchangeSchema } from '@pindro/core/browser';
import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { runSearch } from './run-search.js';
import { capture, done, json, page } from './shapes.js';

/** Runs and their record. */
export const runs = {
  listRuns: {
    method: 'GET',
    role: 'viewer',
    path: '/runs',
    about: 'Lists runs, newest first',
    query: page.extend(runSearch.shape),
    answer: z.object({
      items: z.array(r.runSummary),
      next: z.string().nullable(),
      bounded: z
        .boolean()
        .describe('True if only the newest runs with the words were searched, because there are too many'),
    }),
  },
  getRun: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id',
    about: 'Returns one run with its trace and findings',
    query: z.object({
      brief: z
        .stringbool()
        .default(false)
        .describe('Values over 64 KiB are truncated: {cut, characters, beginning}; runValue returns them in full'),
    }),
    answer: r.runDetail,
  },
  runValue: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/value',
    about: 'Returns one value of a run in full',
    query: z.object({
      of: z.enum(['input', 'result', 'step']),
      path: z.string().optional().describe('For step: which event, as in "settled"'),
    }),
    answer: z.object({ value: json }),
  },
  runExchanges: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/spans/:span/exchanges',
    about: 'Returns request and response of a span: of failed ones, or all if they were captured',
    answer: z.object({ items: z.array(exchangeSchema) }),
  },
  activity: {
    method: 'GET',
    role: 'viewer',
    path: '/activity',
    about: 'Returns the number of runs per hour by outcome, and the most frequent failures',
    query: z.object({ hours: z.coerce.number().int().min(1).max(168).default(24) }),
    answer: z.object({
      hours: z.array(
        z.object({
          from: z.iso.datetime(),
          done: z.number(),
          failed: z.number().describe('Failed or interrupted'),
          other: z.number().describe('Cancelled, or not finished'),
        }),
      ),
      failing: z
        .array(z.object({ flow: z.string(), times: z.number(), run: z.string(), title: z.string().nullable() }))
        .describe('Failed flows, most frequent first, with the latest run'),
    }),
  },
  listConversations: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/conversations',
    about: 'Lists recent conversations with a flow, most recent first',
    answer: z.object({
      items: z.array(
        z.object({
          session: z.string(),
          begins: z.string().describe('First retained message'),
          caller: z.string(),
          turns: z.number(),
          lastAt: z.iso.datetime(),
        }),
      ),
    }),
  },
  compareRuns: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/compare',
    about: 'Compares a run with another one of the same flow; by default the last successful one',
    query: z.object({ other: z.string().optional() }),
    answer: z.object({
      other: r.runSummary,
      rows: z.array(
        z.object({
          what: z.string(),
          work: z.string(),
          one: r.side.nullable(),
          other: r.side.nullable(),
          differs: z.array(z.enum(['came', 'status', 'input', 'output', 'error'])),
        }),
      ),
      first: z.string().nullable().describe('First difference'),
    }),
  },
  retryRun: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/retry',
    about: 'Reruns it, or from a step on: with the draft, the live revision, or the document that ran',
    body: z.object({
      on: z.enum(['draft', 'live', 'ran']).optional().describe('The draft by default, if there is one'),
      from: z
        .string()
        .optional()
        .describe(
          'Starts at this step: earlier steps are replayed from the recording, and so is anything that cannot be repeated',
        ),
      input: json.optional().describe('Different input; the recorded input by default'),
      live: z.boolean().default(false).describe('With "from": whether steps may repeat side effects'),
      round: z
        .number()
        .int()
        .min(1)
        .optional()
        .describe('With "from" an agent step: starts at this round of its model, with everything before it'),
      answers: z.record(z.string(), json).optional().describe('With "from": replaced tool results, by tool name'),
      model: z.string().optional().describe('Different model connection for the step it starts from, or for all'),
      set: z
        .record(z.string().regex(/^\/steps\//, 'must be a JSON Pointer to a value inside a step'), json)
        .optional()
        .describe('Values to replace in the flow, by JSON Pointer, for this run only'),
      capture,
    }),
    answer: r.outcome,
  },
  createFlowFromRun: {
    method: 'POST',
    role: 'builder',
    path: '/runs/:id/flow',
    about: 'Creates a draft that does what the agent of a run did, without a model',
    body: z.object({ name: z.string().describe('Name of the new flow') }),
    answer: z.object({ name: z.string(), mistakes: z.number().describe('What remains to be fixed in it') }),
  },
  cancelRun: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/cancel',
    about: 'Cancels a run that is in progress',
    answer: done,
  },
  pruneRuns: {
    method: 'POST',
    role: 'owner',
    path: '/runs/prune',
    about: 'Deletes runs that ended before some days ago, with all child runs',
    body: z.object({ olderThanDays: z.number().min(0).describe('Runs that ended at least this many days ago') }),
    answer: z.object({ removed: z.number(), record: r.recordOverview }),
  },
} as const satisfies Record<string, Route>;
