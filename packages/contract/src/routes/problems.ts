import { z } from 'zod';
import * as p from '../problems.js';
import type { Route } from './route.js';

/** The same trouble across runs. */
export const problems = {
  listProblems: {
    method: 'GET',
    role: 'viewer',
    path: '/problems',
    about: 'Lists problems across runs, most recent first; without a state, open and recurring ones',
    query: z.object({
      state: p.problemState.optional(),
      flow: z.string().optional(),
      handled: z
        .stringbool()
        .optional()
        .describe('Problems handled within their runs instead of the others, most expensive first'),
      limit: z.coerce.number().int().min(1).max(200).default(50),
    }),
    answer: z.object({ items: z.array(p.problemSummary), open: z.number() }),
  },
  problemFeed: {
    method: 'GET',
    role: 'viewer',
    path: '/problems/feed',
    about: 'Returns open and recurring problems as an Atom feed (RFC 4287), for readers that send a key',
    answer: z.string(),
  },
  getProblem: {
    method: 'GET',
    role: 'viewer',
    path: '/problems/:id',
    about: 'Returns one problem: its finding, frequency, location and runs',
    answer: p.problemDetail,
  },
  updateProblem: {
    method: 'POST',
    role: 'operator',
    path: '/problems/:id',
    about: 'Marks a problem as resolved, expected for some days, or open',
    body: z.object({
      state: z.enum(['open', 'expected', 'resolved']),
      days: z.number().min(0).max(3650).optional().describe('For expected: number of days; unlimited by default'),
      note: z.string().max(500).default('').describe('The change that resolved it, or a reason'),
    }),
    answer: p.problemDetail,
  },
  fixRun: {
    method: 'POST',
    role: 'builder',
    path: '/runs/:id/fix',
    about:
      'Applies the fix that a finding of a run proposes. Resolves the problem unless the fix failed or changed only a draft',
    body: z.object({
      finding: z.string().optional().describe('Fingerprint of the finding, if several propose a fix'),
      try: z
        .boolean()
        .default(false)
        .describe('Tests the fix on recorded runs with the same finding, without saving or side effects'),
      publish: z
        .boolean()
        .default(false)
        .describe('Publishes the flow whose draft the fix changes, including its other draft changes'),
    }),
    answer: z.object({
      done: z.string().describe('Description of the applied or proposed change'),
      made: z.boolean(),
      tried: z
        .object({
          tried: z.number().describe('Number of recorded runs tested with it'),
          cured: z.number(),
          left: z
            .array(z.object({ run: z.string(), why: z.string() }))
            .describe('Runs that it did not fix, or that were not tested'),
        })
        .nullable()
        .describe('null if such a change cannot be tested, or was not'),
      checked: z
        .object({ fine: z.boolean(), words: z.string() })
        .nullable()
        .describe('Response of the tool server or model that the fix is for; null if none could be tested'),
      draft: z
        .object({
          flow: z.string(),
          live: z.number().int().describe('Revision that callers still use'),
          others: z.boolean().describe('Whether the draft has other unpublished changes'),
        })
        .nullable()
        .describe('Flow whose draft alone was changed; null if callers get the fix too'),
    }),
  },
} as const satisfies Record<string, Route>;
