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
  'doc',
] as const;

export const hit = z.object({
  sort: z.enum(SEARCH_SORTS),
  name: z.string().describe('Its name, or its ID if it has none'),
  title: z.string().describe('Display name'),
  about: z.string(),
  in: z
    .string()
    .nullable()
    .describe(
      'Parent: the flow of a step or entry point, the server of a tool, the page of a section of the documentation',
    ),
});
export type Hit = z.infer<typeof hit>;

/** One search over everything. */
export const search = {
  search: {
    method: 'GET',
    role: 'viewer',
    path: '/search',
    about:
      'Searches flows, steps, tools, tables, settings and the documentation, and runs by ID; closest matches first',
    query: z.object({
      words: z.string().max(200),
      limit: z.coerce.number().int().min(1).max(100).default(30),
    }),
    answer: z.object({ items: z.array(hit) }),
  },
} as const satisfies Record<string, Route>;
