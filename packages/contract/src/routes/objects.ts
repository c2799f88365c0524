import { z } from 'zod';
import type { Role } from '../roles.js';
import type { Route } from './route.js';

/* What can be done with every thing that people make, alike for all. */

export const removal = z.object({
  id: z.string().describe('With which the removal can be taken back'),
  what: z.string(),
  name: z.string(),
  by: z.string(),
  removedAt: z.string(),
  until: z.string().describe('Until when it can be taken back'),
});
export type Removal = z.infer<typeof removal>;

const anyway = z.object({ anyway: z.stringbool().default(false).describe('Also where something still uses it') });
export const removed = z.object({ done: z.literal(true), removal });
const renamed = z.object({
  name: z.string(),
  changed: z.array(z.string()).describe('What named it, and calls it by the new name now'),
});
const to = z.object({ to: z.string().describe('The new name') });

export const searching = z.object({
  search: z.string().max(200).optional().describe('Only those with this in their name or words'),
});

/** Taking a thing out; it can be put back for ten minutes. */
export const removing = <const P extends string>(path: P, role: Role, about: string) =>
  ({ method: 'DELETE', role, path, about, query: anyway, answer: removed }) as const satisfies Route;

/** Giving a thing another name: what names it follows, and the old name still leads there. */
export const renaming = <const P extends string>(path: P, role: Role, what: string) =>
  ({
    method: 'POST',
    role,
    path: `${path}/rename`,
    about: `Gives a ${what} another name; what names it follows, and the old name still leads there`,
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
    about: `What uses a ${what}, in words`,
    answer: z.object({ items: z.array(z.string()) }),
  }) as const satisfies Route;

/** What was removed lately. */
export const removals = {
  listRemovals: {
    method: 'GET',
    role: 'viewer',
    path: '/removals',
    about: 'What was removed in the last ten minutes and can be put back, newest first',
    answer: z.object({ items: z.array(removal) }),
  },
  putBack: {
    method: 'POST',
    role: 'viewer',
    path: '/removals/:id/put-back',
    about: 'Puts back what was removed, as it was; wants the role that removing it wants',
    answer: removal,
  },
} as const satisfies Record<string, Route>;
