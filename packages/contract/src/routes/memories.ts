import { z } from 'zod';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { done } from './shapes.js';

/** What agents remember. */
export const memories = {
  listMemories: {
    method: 'GET',
    role: 'operator',
    path: '/memories',
    about: 'Lists memories of agents, most recent first, or those that contain the given words',
    query: o.searching,
    answer: z.object({ items: z.array(r.memorySummary) }),
  },
  getMemory: {
    method: 'GET',
    role: 'operator',
    path: '/memories/:id',
    about: 'Returns one memory: its turns, notes and summary',
    answer: r.memory,
  },
  correctNote: {
    method: 'POST',
    role: 'builder',
    path: '/memories/:id/notes',
    about: 'Corrects, adds or deletes a note',
    body: z.object({
      about: z.string().min(1).max(100),
      text: z.string().max(2000).nullable().describe('null deletes it'),
    }),
    answer: r.memory,
  },
  deleteMemory: {
    method: 'DELETE',
    role: 'builder',
    path: '/memories/:id',
    about: 'Deletes a memory completely',
    answer: done,
  },
} as const satisfies Record<string, Route>;
