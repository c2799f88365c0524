import { z } from 'zod';
import { runSearch } from '../routes/run-search.js';
import { defineResource } from './descriptor.js';

const query = z.record(z.string(), z.string()).superRefine((given, context) => {
  for (const { path, message } of runSearch.safeParse(given).error?.issues ?? [])
    context.addIssue({ code: 'custom', path, message });
});

/** Filters of runs, kept under a name for everybody. */
export const filter = defineResource({
  name: 'filter',
  plural: 'filters',
  words: 'run filter',
  path: '/run-filters/:name',
  role: 'operator',
  verbs: { rename: true, copy: true, remove: true },
  page: '/runs?filter=NAME',
  list: '/runs',
  files: ['filters.yaml'],
  fields: z.object({ query: query.describe('Parameters of "listRuns"') }),
});
