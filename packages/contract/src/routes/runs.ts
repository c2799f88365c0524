import { DURATION, ENTRIES, exchangeSchema } from '@pindro/core/browser';
import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { done, exact, json, page } from './shapes.js';

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
      endpoint: z.string().optional(),
      tool: z.string().optional().describe('It was called in the run, or by it'),
      server: z.string().optional(),
      model: z.string().optional().describe('A model connection that was asked'),
      entry: z.enum(ENTRIES).optional().describe('Where it came from'),
      trace: z.string().optional().describe('The trace id that whoever else took part in it knows'),
      finding: z.string().optional().describe('The code of what was found in it'),
      problem: z.string().optional().describe('The fingerprint of a problem that was seen in it'),
      failed: z.stringbool().optional().describe('Something in it failed, whether it was dealt with or not'),
      since: z.string().optional().describe('Begun then or later: a moment, or so long ago, such as 2h'),
      until: z.string().optional(),
      longer: z
        .string()
        .regex(DURATION, 'must be a duration such as 5s')
        .optional()
        .describe('It took at least so long'),
      tokens: z.coerce.number().min(0).optional().describe('Its models read and wrote at least so many tokens'),
      text: z.string().max(200).optional().describe('It went in or out with all of these words'),
      cost: z.coerce.number().min(0).optional().describe('It cost at least so much'),
    }),
    answer: z.object({
      items: z.array(r.runSummary),
      next: z.string().nullable(),
      bounded: z.boolean().describe('So many runs have the words that only the newest of them were looked at'),
    }),
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
  runExchanges: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/spans/:span/exchanges',
    about: 'What went over the wire for a span: of what was refused or did not come, or all where that was asked for',
    answer: z.object({ items: z.array(exchangeSchema) }),
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
  besideRun: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id/beside',
    about: 'Lays a run beside another one of the same flow; the last that went well if none is named',
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
      first: z.string().nullable().describe('What differs first'),
    }),
  },
  runAgain: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/again',
    about: 'Runs it again, or from a step on: on the draft, on what is live, or on the very document that ran',
    body: z.object({
      on: z.enum(['draft', 'live', 'ran']).optional().describe('The draft if left out, where there is one'),
      from: z
        .string()
        .optional()
        .describe(
          'From this step on: what does not come after it is taken from the record, and so is what cannot be repeated',
        ),
      input: json.optional().describe('Another input; what it was given if left out'),
      live: z
        .boolean()
        .default(false)
        .describe('With "from": whether steps may be done for real that make a difference when they are done twice'),
      round: z
        .number()
        .int()
        .min(1)
        .optional()
        .describe('With "from" a step with an agent: from this round of its model on, with all that stands before it'),
      answers: z
        .record(z.string(), json)
        .optional()
        .describe('With "from": what tools give the agent in place of what they gave, by their names'),
      model: z.string().optional().describe('Another model connection for the step it is done from, or for all'),
      set: z
        .record(z.string().regex(/^\/steps\//, 'must be a JSON Pointer to something in a step'), json)
        .optional()
        .describe('What stands at places of the flow, by JSON Pointer, for this time only'),
      exact,
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
