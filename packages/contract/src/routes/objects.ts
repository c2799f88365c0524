import { z } from 'zod';
import type { Role } from '../roles.js';
import type { Route } from './route.js';

/* What can be done with every thing that people make, alike for all. */

export const removal = z.object({
  id: z.string().describe('ID for undoing the removal'),
  what: z.string(),
  name: z.string(),
  by: z.string(),
  removedAt: z.string(),
  until: z.string().describe('Time until which it can be undone'),
});
export type Removal = z.infer<typeof removal>;

const force = z.object({ force: z.stringbool().default(false).describe('Even if something still uses it') });
export const removed = z.object({ done: z.literal(true), removal });
const renamed = z.object({
  name: z.string(),
  changed: z.array(z.string()).describe('Things that refer to it, updated to the new name'),
});
const to = z.object({ to: z.string().describe('New name') });

export const searching = z.object({
  search: z.string().max(200).optional().describe('Only those with this text in their name or description'),
});

/** Removes a thing, which can be restored for ten minutes. */
export const removing = <const P extends string>(path: P, role: Role, about: string) =>
  ({ method: 'DELETE', role, path, about, query: force, answer: removed }) as const satisfies Route;

/** Giving a thing another name: what names it follows, and the old name still leads there. */
export const renaming = <const P extends string>(path: P, role: Role, what: string) =>
  ({
    method: 'POST',
    role,
    path: `${path}/rename`,
    about: `Renames a ${what}; references follow, and the old name still works`,
    body: to,
    answer: renamed,
  }) as const satisfies Route;

export const copying = <const P extends string>(path: P, role: Role, about: string) =>
  ({
    method: 'POST',
    role,
    path: `${path}/copy`,
    about,
    body: to,
    answer: z.object({ name: z.string() }),
  }) as const satisfies Route;

export const using = <const P extends string>(path: P, what: string) =>
  ({
    method: 'GET',
    role: 'viewer',
    path: `${path}/uses`,
    about: `Lists what uses a ${what}`,
    answer: z.object({ items: z.array(z.string()) }),
  }) as const satisfies Route;

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
