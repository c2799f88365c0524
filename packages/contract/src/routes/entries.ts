import { z } from 'zod';
import * as b from '../building-resources.js';
import type { Route } from './route.js';
import { done } from './shapes.js';

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
    query: z.object({ flow: z.string().optional() }),
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
  removeEntry: { method: 'DELETE', role: 'builder', path: '/entries/:id', about: 'Closes a way in', answer: done },
} as const satisfies Record<string, Route>;
