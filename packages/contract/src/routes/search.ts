import { z } from 'zod';
import { RESOURCE, type ResourceName } from '../resource/list.js';
import type { Route } from './route.js';

/** What a hit can be besides a resource. */
const PARTS = ['step', 'tool', 'run', 'doc'] as const;
const names = Object.keys(RESOURCE) as ResourceName[];

export const hit = z.object({
  sort: z.enum([...names, ...PARTS]),
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
