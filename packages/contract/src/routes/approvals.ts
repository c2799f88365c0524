import { z } from 'zod';
import * as b from '../building-resources.js';
import type { Route } from './route.js';
import { jsonObject } from './shapes.js';

/** What people are asked to decide. */
export const approvals = {
  listApprovals: {
    method: 'GET',
    role: 'viewer',
    path: '/approvals',
    about: 'What people are asked to decide, newest first',
    query: z.object({ open: z.stringbool().default(true) }),
    answer: z.object({ items: z.array(b.approval) }),
  },
  decide: {
    method: 'POST',
    role: 'operator',
    path: '/approvals/:run/decide',
    about: 'Approves or refuses',
    body: z.object({
      path: z.string(),
      decision: z.enum(['approved', 'refused']),
      note: z.string().max(2000).default(''),
      value: jsonObject.optional().describe('What is to be sent instead of the facts'),
    }),
    answer: b.approval,
  },
} as const satisfies Record<string, Route>;
