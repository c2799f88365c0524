import { z } from 'zod';
import * as r from '../resources.js';
import { serverSummary } from '../server-resources.js';
import { streamEvent } from '../stream.js';
import type { Route } from './route.js';

/** How the service is, and what changes in it. */
export const status = {
  status: {
    method: 'GET',
    role: 'viewer',
    path: '/status',
    about: 'Returns the status and addresses of the service',
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
      approvals: z.number().describe('Pending approvals'),
      problems: z.object({
        open: z.number(),
        returned: z.array(z.object({ id: z.string(), title: z.string() })).describe('Resolved once, and recurring'),
      }),
      queued: z.number().describe('Queued runs'),
      trouble: z.string().nullable().describe('Why nothing can be recorded at present'),
      record: r.recordOverview,
    }),
  },
  events: {
    method: 'GET',
    role: 'viewer',
    path: '/events',
    about: 'Streams changes as they happen',
    answer: streamEvent,
    stream: true,
  },
} as const satisfies Record<string, Route>;
