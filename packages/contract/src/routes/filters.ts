import { z } from 'zod';
import type { Route } from './route.js';
import { runs } from './runs.js';
import { done } from './shapes.js';

export const savedFilter = z.object({
  name: z.string(),
  query: z.record(z.string(), z.string()),
  by: z.string(),
  at: z.iso.datetime(),
});
export type SavedFilter = z.infer<typeof savedFilter>;

/** What `listRuns` takes, but for where a page begins. */
const searched = runs.listRuns.query.omit({ cursor: true, limit: true }).strict();
const query = z.record(z.string(), z.string()).superRefine((given, context) => {
  for (const { path, message } of searched.safeParse(given).error?.issues ?? [])
    context.addIssue({ code: 'custom', path, message });
});

/** Filters of runs, kept under a name for everybody. */
export const filters = {
  listFilters: {
    method: 'GET',
    role: 'viewer',
    path: '/run-filters',
    about: 'Lists saved run filters',
    answer: z.object({ items: z.array(savedFilter) }),
  },
  saveFilter: {
    method: 'PUT',
    role: 'operator',
    path: '/run-filters/:name',
    about: 'Saves a run filter under a name, or updates it',
    body: z.object({ query: query.describe('Parameters of "listRuns"') }),
    answer: savedFilter,
  },
  removeFilter: {
    method: 'DELETE',
    role: 'operator',
    path: '/run-filters/:name',
    about: 'Removes a saved filter',
    answer: done,
  },
} as const satisfies Record<string, Route>;
