import { z } from 'zod';
import * as p from '../problems.js';
import type { Route } from './route.js';

/** The same trouble across runs. */
export const problems = {
  listProblems: {
    method: 'GET',
    role: 'viewer',
    path: '/problems',
    about: 'What goes wrong, across runs, the latest first; without a state what is open or came back',
    query: z.object({
      state: p.problemState.optional(),
      flow: z.string().optional(),
      dealtWith: z
        .stringbool()
        .optional()
        .describe('Those that were dealt with in their runs, in place of the others; what cost most first'),
      limit: z.coerce.number().int().min(1).max(200).default(50),
    }),
    answer: z.object({ items: z.array(p.problemSummary), open: z.number() }),
  },
  problemFeed: {
    method: 'GET',
    role: 'viewer',
    path: '/problems/feed',
    about: 'What is open or came back as an Atom feed (RFC 4287), for readers that send a key along',
    answer: z.string(),
  },
  getProblem: {
    method: 'GET',
    role: 'viewer',
    path: '/problems/:id',
    about: 'One problem: what is found, how often, where, and in which runs',
    answer: p.problemDetail,
  },
  judgeProblem: {
    method: 'POST',
    role: 'operator',
    path: '/problems/:id',
    about: 'Says that a problem is mended, is expected for some days, or is open again',
    body: z.object({
      state: z.enum(['open', 'expected', 'mended']),
      days: z.number().min(0).max(3650).optional().describe('For expected: for so many days; without end if left out'),
      note: z.string().max(500).default('').describe('By which change, or why'),
    }),
    answer: p.problemDetail,
  },
  cureRun: {
    method: 'POST',
    role: 'builder',
    path: '/runs/:id/cure',
    about:
      'Applies the fix that a finding of a run proposes. Its problem counts as resolved unless the fix did not help or changed only a draft',
    body: z.object({
      finding: z.string().optional().describe('The fingerprint of the finding, where several propose one'),
      try: z
        .boolean()
        .default(false)
        .describe('Only tries it, on recorded runs with the same finding; nothing is changed or done for real'),
      publish: z
        .boolean()
        .default(false)
        .describe('Publishes the flow whose draft the fix changes, with everything else that its draft changes'),
    }),
    answer: z.object({
      done: z.string().describe('What was done, or would be, in words'),
      made: z.boolean(),
      tried: z
        .object({
          tried: z.number().describe('So many recorded runs were tried with it'),
          cured: z.number(),
          left: z
            .array(z.object({ run: z.string(), why: z.string() }))
            .describe('Those that were not cured, or not tried'),
        })
        .nullable()
        .describe('null where such a change cannot be tried, or was not'),
      checked: z
        .object({ fine: z.boolean(), words: z.string() })
        .nullable()
        .describe('The answer of the tool server or model that the fix is for; null where none could be asked'),
      draft: z
        .object({
          flow: z.string(),
          live: z.number().int().describe('The revision that callers still use'),
          others: z.boolean().describe('Whether the draft has other unpublished changes'),
        })
        .nullable()
        .describe('The flow of which only the draft was changed; null where callers get the fix too'),
    }),
  },
} as const satisfies Record<string, Route>;
