import { z } from 'zod';
import { removal } from '../resource/routes.js';
import type { Route } from './route.js';

/* What all lists and removals have in common. */

export const searching = z.object({
  search: z.string().max(200).optional().describe('Only those with this text in their name or description'),
});

/** Recent removals. */
export const removals = {
  listRemovals: {
    method: 'GET',
    role: 'viewer',
    path: '/removals',
    about: 'Lists what was removed in the last ten minutes and can be restored, newest first',
    answer: z.object({ items: z.array(removal) }),
  },
  restoreRemoved: {
    method: 'POST',
    role: 'viewer',
    path: '/removals/:id/restore',
    about: 'Restores what was removed; requires the same role as removing it',
    answer: removal,
  },
} as const satisfies Record<string, Route>;
