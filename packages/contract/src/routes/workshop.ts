import { z } from 'zod';
import * as b from '../building-resources.js';
import * as r from '../resources.js';

export const proposalSummary = z.object({
  id: z.string(),
  flow: z.string(),
  fresh: z.boolean().describe('Whether there was no flow of that name when it was proposed'),
  why: z.string(),
  key: z.string(),
  caller: z.string(),
  client: z.string(),
  createdAt: z.string(),
  state: z.enum(['open', 'taken', 'declined']),
  note: z.string().describe('What was said to whoever proposed it'),
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
  brief: z.string().describe('What to tell an assistant, ready to copy'),
  proposals: z.array(proposalSummary).describe('The newest first'),
});

/** Addresses for what coding assistants may do here. */
export const workshopRoutes = {
  getWorkshop: {
    method: 'GET',
    role: 'viewer',
    path: '/workshop',
    about:
      'The built-in endpoint for coding assistants: whether it is on, which flows are open to it, what is proposed',
    answer: workshop,
  },
  changeWorkshop: {
    method: 'POST',
    role: 'builder',
    path: '/workshop',
    about: 'Switches it on or off, and opens or closes flows to it',
    body: z.object({
      on: z.boolean().optional(),
      open: z.array(z.string()).default([]).describe('Flows that assistants may see and call from now on'),
      close: z.array(z.string()).default([]),
    }),
    answer: workshop,
  },
  getProposal: {
    method: 'GET',
    role: 'viewer',
    path: '/workshop/proposals/:id',
    about: 'One proposal, and how it differs from the draft',
    answer: proposalSummary.extend({
      text: z.string(),
      version: z.number().nullable().describe('The draft it was held against'),
      comparison: b.flowComparison,
      mistakes: z.array(r.mistake),
    }),
  },
  takeProposal: {
    method: 'POST',
    role: 'builder',
    path: '/workshop/proposals/:id/take',
    about: 'Makes a proposal the draft; publishing it is another step',
    body: z.object({
      version: z.number().nullable().optional().describe('The draft it was held against when it was looked at'),
      note: z.string().max(2000).default(''),
    }),
    answer: proposalSummary,
  },
  declineProposal: {
    method: 'POST',
    role: 'builder',
    path: '/workshop/proposals/:id/decline',
    about: 'Turns a proposal down',
    body: z.object({ note: z.string().max(2000).default('').describe('Told to whoever proposed it') }),
    answer: proposalSummary,
  },
} as const;

export type Workshop = z.infer<typeof workshop>;
export type ProposalSummary = z.infer<typeof proposalSummary>;
