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
    about: 'What agents remember, the latest first, or what has some words in it',
    query: o.searching,
    answer: z.object({ items: z.array(r.memorySummary) }),
  },
  getMemory: {
    method: 'GET',
    role: 'operator',
    path: '/memories/:id',
    about: 'One memory: its exchanges, notes and abstract',
    answer: r.memory,
  },
  correctNote: {
    method: 'POST',
    role: 'builder',
    path: '/memories/:id/notes',
    about: 'Corrects a note, makes one, or takes one out',
    body: z.object({
      about: z.string().min(1).max(100),
      text: z.string().max(2000).nullable().describe('null takes it out'),
    }),
    answer: r.memory,
  },
  forgetMemory: {
    method: 'DELETE',
    role: 'builder',
    path: '/memories/:id',
    about: 'Forgets a memory with all its parts',
    answer: done,
  },
} as const satisfies Record<string, Route>;
