import { z } from 'zod';
import * as b from '../building-resources.js';
import { entry } from '../resource/entry.js';
import { resourceRoutes } from '../resource/routes.js';
import * as o from './objects.js';
import type { Route } from './route.js';

const newEntry = z.object({
  flow: z.string(),
  path: z.string().optional().describe('Last part of the address; the name of the flow by default'),
  on: z.boolean().default(true),
  settings: b.entrySettings,
  secret: z.string().min(8).optional().describe('Signing secret; generated if one is needed and none is given'),
});

/** Ways into a flow: hooks, forms, chats, schedules. */
export const entries = {
  listEntries: {
    method: 'GET',
    role: 'viewer',
    path: '/entries',
    about: 'Lists entry points of flows other than tool calls',
    query: o.searching.extend({ flow: z.string().optional() }),
    answer: z.object({ items: z.array(b.entry) }),
  },
  createEntry: {
    method: 'POST',
    role: 'builder',
    path: '/entries',
    about: 'Creates an entry point',
    body: newEntry,
    answer: b.entry.extend({ newSecret: z.string().nullable().describe('Shown only once') }),
  },
  updateEntry: {
    method: 'PUT',
    role: 'builder',
    path: '/entries/:id',
    about: 'Changes an entry point, or enables or disables it',
    body: newEntry.omit({ flow: true }).partial(),
    answer: b.entry,
  },
  getEntry: { method: 'GET', role: 'viewer', path: '/entries/:id', about: 'Returns one entry point', answer: b.entry },
  copyEntry: {
    method: 'POST',
    role: 'builder',
    path: '/entries/:id/copy',
    about: 'Creates a disabled copy of an entry point: for another flow, or at another address',
    body: z.object({ flow: z.string().optional(), path: z.string().optional() }),
    answer: b.entry.extend({ newSecret: z.string().nullable().describe('Shown only once') }),
  },
  ...resourceRoutes(entry),
} as const satisfies Record<string, Route>;
