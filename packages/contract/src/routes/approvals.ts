import { GRANTS } from '@pindro/core/browser';
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
      grant: z.enum(GRANTS).optional().describe('What the approval covers; what the builder set if left out'),
      holds: z
        .string()
        .optional()
        .describe('How long it covers further calls, such as 8h; as long as the builder allows if left out'),
    }),
    answer: b.approval,
  },
  listStandingApprovals: {
    method: 'GET',
    role: 'viewer',
    path: '/standing-approvals',
    about: 'Approvals that cover further calls, newest first',
    query: z.object({ all: z.stringbool().default(false).describe('Also those that expired or were revoked') }),
    answer: z.object({ items: z.array(b.standingApproval) }),
  },
  revokeStandingApproval: {
    method: 'DELETE',
    role: 'operator',
    path: '/standing-approvals/:id',
    about: 'Revokes an approval that covers further calls',
    answer: b.standingApproval,
  },
} as const satisfies Record<string, Route>;
