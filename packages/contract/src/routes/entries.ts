import { z } from 'zod';
import * as b from '../building-resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';

const newEntry = z.object({
  flow: z.string(),
  path: z.string().optional().describe('Its own part of the address; the name of the flow if left out'),
  on: z.boolean().default(true),
  settings: b.entrySettings,
  secret: z.string().min(8).optional().describe('To sign with; made if left out where one is needed'),
});

/** Ways into a flow: hooks, forms, chats, schedules. */
export const entries = {
  listEntries: {
    method: 'GET',
    role: 'viewer',
    path: '/entries',
    about: 'Ways into flows besides tool calls',
    query: o.searching.extend({ flow: z.string().optional() }),
    answer: z.object({ items: z.array(b.entry) }),
  },
  addEntry: {
    method: 'POST',
    role: 'builder',
    path: '/entries',
    about: 'Opens a way into a flow',
    body: newEntry,
    answer: b.entry.extend({ newSecret: z.string().nullable().describe('Shown this once') }),
  },
  changeEntry: {
    method: 'PUT',
    role: 'builder',
    path: '/entries/:id',
    about: 'Changes a way in, or switches it on or off',
    body: newEntry.omit({ flow: true }).partial(),
    answer: b.entry,
  },
  getEntry: { method: 'GET', role: 'viewer', path: '/entries/:id', about: 'One way in', answer: b.entry },
  copyEntry: {
    method: 'POST',
    role: 'builder',
    path: '/entries/:id/copy',
    about: 'Opens a way in like another, switched off: into another flow, or at another address',
    body: z.object({ flow: z.string().optional(), path: z.string().optional() }),
    answer: b.entry.extend({ newSecret: z.string().nullable().describe('Shown this once') }),
  },
  removeEntry: o.removing('/entries/:id', 'builder', 'Closes a way in'),
} as const satisfies Record<string, Route>;
