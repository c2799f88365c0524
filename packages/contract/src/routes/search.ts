import { z } from 'zod';
import type { Route } from './route.js';

export const SEARCH_SORTS = [
  'flow',
  'step',
  'tool',
  'run',
  'endpoint',
  'server',
  'table',
  'model',
  'credential',
  'key',
  'entry',
] as const;

export const hit = z.object({
  sort: z.enum(SEARCH_SORTS),
  name: z.string().describe('Its name, or its id where it has none'),
  title: z.string().describe('What people call it'),
  about: z.string(),
  in: z.string().nullable().describe('Where it stands: the flow of a step or way in, the server of a tool'),
});
export type Hit = z.infer<typeof hit>;

/** One search over everything. */
export const search = {
  search: {
    method: 'GET',
    role: 'viewer',
    path: '/search',
    about: 'Looks for words in flows, steps, tools, tables, settings, and for a run by its id; the nearest first',
    query: z.object({
      words: z.string().max(200),
      limit: z.coerce.number().int().min(1).max(100).default(30),
    }),
    answer: z.object({ items: z.array(hit) }),
  },
} as const satisfies Record<string, Route>;
