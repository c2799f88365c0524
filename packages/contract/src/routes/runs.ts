import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { done, json, page } from './shapes.js';

/** Runs and their record. */
export const runs = {
  listRuns: {
    method: 'GET',
    role: 'viewer',
    path: '/runs',
    about: 'Runs, newest first',
    query: page.extend({
      flow: z.string().optional(),
      state: r.runState.optional(),
      caller: z.string().optional(),
      session: z.string().optional(),
      roots: z.stringbool().optional(),
    }),
    answer: z.object({ items: z.array(r.runSummary), next: z.string().nullable() }),
  },
  getRun: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id',
    about: 'One run with its trace and what went wrong',
    query: z.object({
      brief: z
        .stringbool()
        .default(false)
        .describe('Values of more than 64 KiB are cut: {cut, characters, beginning}; runValue has them whole'),
    }),
    answer: r.runDetail,
  },
  runValue: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/value',
    about: 'One value of a run, whole',
    query: z.object({
      of: z.enum(['input', 'result', 'step']),
      path: z.string().optional().describe('For step: which one, as in "settled"'),
    }),
    answer: z.object({ value: json }),
  },
  activity: {
    method: 'GET',
    role: 'viewer',
    path: '/activity',
    about: 'How many runs began, hour by hour, and how they went; what failed most',
    query: z.object({ hours: z.coerce.number().int().min(1).max(168).default(24) }),
    answer: z.object({
      hours: z.array(
        z.object({
          from: z.iso.datetime(),
          done: z.number(),
          failed: z.number().describe('Failed or interrupted'),
          other: z.number().describe('Cancelled, or not at an end yet'),
        }),
      ),
      failing: z
        .array(z.object({ flow: z.string(), times: z.number(), run: z.string(), title: z.string().nullable() }))
        .describe('Flows that failed, the most often first, with the latest run'),
    }),
  },
  listConversations: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/conversations',
    about: 'What was talked about with a flow lately, conversation by conversation, the latest first',
    answer: z.object({
      items: z.array(
        z.object({
          session: z.string(),
          begins: z.string().describe('The first message that is still kept'),
          caller: z.string(),
          turns: z.number(),
          lastAt: z.iso.datetime(),
        }),
      ),
    }),
  },
  runAgain: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/again',
    about: 'Runs the same input again: on the draft, on what is live, or on the very document that ran',
    body: z.object({
      on: z.enum(['draft', 'live', 'ran']).optional().describe('The draft if left out, where there is one'),
    }),
    answer: r.outcome,
  },
  flowOfRun: {
    method: 'POST',
    role: 'builder',
    path: '/runs/:id/flow',
    about: 'Makes a draft that does without a model what the agent of a run did',
    body: z.object({ name: z.string().describe('Of the new flow') }),
    answer: z.object({ name: z.string(), mistakes: z.number().describe('What is still to be mended in it') }),
  },
  cancelRun: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/cancel',
    about: 'Cancels a run that is under way',
    answer: done,
  },
  pruneRuns: {
    method: 'POST',
    role: 'owner',
    path: '/runs/prune',
    about: 'Lets go of runs that ended before some days, with all they began',
    body: z.object({ olderThanDays: z.number().min(0).describe('Runs that ended so many days ago, or earlier') }),
    answer: z.object({ removed: z.number(), record: r.recordOverview }),
  },
} as const satisfies Record<string, Route>;
