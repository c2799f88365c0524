import { z } from 'zod';
import type { Route } from './route.js';
import { done } from './shapes.js';

const backup = z.object({
  id: z.string(),
  madeAt: z.string(),
  bytes: z.number(),
  folder: z.string().describe('Where it stands on the machine of the service; whoever has it has every secret'),
});

/** Copies of everything, made while the service runs. */
export const backups = {
  listBackups: {
    method: 'GET',
    role: 'owner',
    path: '/backups',
    about: 'Backups, newest first',
    answer: z.object({ items: z.array(backup) }),
  },
  makeBackup: {
    method: 'POST',
    role: 'owner',
    path: '/backups',
    about: 'Makes a backup of everything, secrets and runs included, while the service goes on',
    answer: backup,
  },
  removeBackup: { method: 'DELETE', role: 'owner', path: '/backups/:id', about: 'Removes a backup', answer: done },
  restoreBackup: {
    method: 'POST',
    role: 'owner',
    path: '/backups/:id/restore',
    about: 'Makes everything as it was in a backup; the service starts anew, and what is now is backed up first',
    answer: z.object({ restoring: z.string(), before: z.string().describe('The backup of what was until now') }),
  },
} as const satisfies Record<string, Route>;
