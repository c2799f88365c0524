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
    about: 'Lists pending and past approvals, newest first',
    query: z.object({ open: z.stringbool().default(true) }),
    answer: z.object({ items: z.array(b.approval) }),
  },
  decide: {
    method: 'POST',
    role: 'operator',
    path: '/approvals/:run/decide',
    about: 'Approves or rejects',
    body: z.object({
      path: z.string(),
      decision: z.enum(['approved', 'refused']),
      note: z.string().max(2000).default(''),
      value: jsonObject.optional().describe('Values to send instead of the facts'),
      grant: z.enum(GRANTS).optional().describe("Scope of the approval; the builder's setting by default"),
      holds: z
        .string()
        .optional()
        .describe('How long it covers further calls, such as 8h; by default, as long as the builder allows'),
    }),
    answer: b.approval,
  },
  listStandingApprovals: {
    method: 'GET',
    role: 'viewer',
    path: '/standing-approvals',
    about: 'Lists approvals that cover further calls, newest first',
    query: z.object({ all: z.stringbool().default(false).describe('Includes expired and revoked ones') }),
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
