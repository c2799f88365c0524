import { z } from 'zod';
import * as b from '../building-resources.js';
import * as r from '../resources.js';

export const proposalSummary = z.object({
  id: z.string(),
  flow: z.string(),
  fresh: z.boolean().describe('Whether no flow of that name existed when it was proposed'),
  why: z.string(),
  key: z.string(),
  caller: z.string(),
  client: z.string(),
  createdAt: z.string(),
  state: z.enum(['open', 'taken', 'declined']),
  note: z.string().describe('Reply to the proposer'),
  settledBy: z.string().nullable(),
  settledAt: z.string().nullable(),
});
export const workshop = z.object({
  on: z.boolean(),
  url: z.string(),
  flows: z.array(
    z.object({
      name: z.string(),
      title: z.string(),
      open: z.boolean().describe('Whether assistants may see and call it'),
      live: z.boolean(),
    }),
  ),
  tools: z.array(z.object({ name: z.string(), title: z.string(), about: z.string(), wider: z.boolean() })),
  brief: z.string().describe('Instructions for an assistant, ready to copy'),
  proposals: z.array(proposalSummary).describe('Newest first'),
});

/** Addresses for what coding assistants may do here. */
export const workshopRoutes = {
  getWorkshop: {
    method: 'GET',
    role: 'viewer',
    path: '/workshop',
    about: 'Returns the built-in endpoint for coding assistants: whether it is enabled, its flows and its proposals',
    answer: workshop,
  },
  updateWorkshop: {
    method: 'POST',
    role: 'builder',
    path: '/workshop',
    about: 'Enables or disables it, and adds or removes flows',
    body: z.object({
      on: z.boolean().optional(),
      open: z.array(z.string()).default([]).describe('Flows that assistants may see and call'),
      close: z.array(z.string()).default([]),
    }),
    answer: workshop,
  },
  getProposal: {
    method: 'GET',
    role: 'viewer',
    path: '/workshop/proposals/:id',
    about: 'Returns one proposal and its difference from the draft',
    answer: proposalSummary.extend({
      text: z.string(),
      version: z.number().nullable().describe('Draft that it was compared with'),
      comparison: b.flowComparison,
      mistakes: z.array(r.mistake),
    }),
  },
  acceptProposal: {
    method: 'POST',
    role: 'builder',
    path: '/workshop/proposals/:id/accept',
    about: 'Accepts a proposal as the draft, without publishing it',
    body: z.object({
      version: z.number().nullable().optional().describe('Draft that it was compared with during the review'),
      note: z.string().max(2000).default(''),
    }),
    answer: proposalSummary,
  },
  rejectProposal: {
    method: 'POST',
    role: 'builder',
    path: '/workshop/proposals/:id/reject',
    about: 'Rejects a proposal',
    body: z.object({ note: z.string().max(2000).default('').describe('Reply to the proposer') }),
    answer: proposalSummary,
  },
} as const;

export type Workshop = z.infer<typeof workshop>;
export type ProposalSummary = z.infer<typeof proposalSummary>;
