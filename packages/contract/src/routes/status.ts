import { z } from 'zod';
import * as r from '../resources.js';
import { serverSummary } from '../server-resources.js';
import type { Route } from './route.js';

/** How the service is, and what changes in it. */
export const status = {
  status: {
    method: 'GET',
    role: 'viewer',
    path: '/status',
    about: 'Whether the service is well, and where it is',
    answer: z.object({
      name: z.literal('pindro'),
      version: z.string(),
      url: z.string(),
      runs: z.number(),
      running: z.number(),
      flows: z.number(),
      endpoints: z.number(),
      servers: z.array(serverSummary),
      models: z.array(r.modelSummary),
      mailbox: z.boolean(),
      approvals: z.number().describe('Decisions that somebody is to make'),
      problems: z.object({
        open: z.number(),
        returned: z.array(z.object({ id: z.string(), title: z.string() })).describe('Mended once, and back'),
      }),
      queued: z.number().describe('Runs that wait for their turn'),
      trouble: z.string().nullable().describe('Why nothing can be recorded now'),
      record: r.recordOverview,
    }),
  },
  events: {
    method: 'GET',
    role: 'viewer',
    path: '/events',
    about: 'What changes, as it changes',
    answer: r.liveEvent,
    stream: true,
  },
} as const satisfies Record<string, Route>;
