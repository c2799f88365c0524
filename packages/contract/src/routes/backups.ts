import { z } from 'zod';
import { ROLES } from '../roles.js';
import type { Route } from './route.js';
import { done } from './shapes.js';

const backup = z.object({
  id: z.string(),
  madeAt: z.string(),
  bytes: z.number(),
  folder: z.string().describe('Path on the machine of the service. The backup contains every secret'),
});

const reactivation = z.object({
  keys: z
    .array(z.object({ id: z.string(), name: z.string(), caller: z.string(), manage: z.boolean() }))
    .describe('Keys that are valid in the backup, but now revoked, removed or expired'),
  people: z
    .array(
      z.object({ name: z.string(), role: z.enum(ROLES), now: z.enum(ROLES).nullable().describe('null if removed') }),
    )
    .describe('People in the backup who were removed or now have a lower role'),
  approvals: z
    .array(z.object({ id: z.string(), flow: z.string(), tool: z.string(), caller: z.string() }))
    .describe('Approvals that are valid in the backup, but now revoked'),
});

/** Copies of everything, made while the service runs. */
export const backups = {
  listBackups: {
    method: 'GET',
    role: 'owner',
    path: '/backups',
    about: 'Lists backups, newest first',
    answer: z.object({ items: z.array(backup) }),
  },
  createBackup: {
    method: 'POST',
    role: 'owner',
    path: '/backups',
    about: 'Creates a backup of everything, including secrets and runs, while the service keeps running',
    answer: backup,
  },
  removeBackup: { method: 'DELETE', role: 'owner', path: '/backups/:id', about: 'Removes a backup', answer: done },
  previewRestore: {
    method: 'GET',
    role: 'owner',
    path: '/backups/:id/restore',
    about: 'Lists revoked keys and approvals and removed people that restoring a backup would reactivate',
    answer: reactivation,
  },
  restoreBackup: {
    method: 'POST',
    role: 'owner',
    path: '/backups/:id/restore',
    about: 'Restores a backup and restarts the service; the present state is backed up first',
    body: z.object({
      reactivate: z
        .boolean()
        .default(false)
        .describe('Reactivates revoked keys and approvals and removed people; without it they stay as they are now'),
    }),
    answer: reactivation.extend({
      reactivated: z.boolean(),
      restoring: z.string(),
      before: z.string().describe('Backup of the state before the restore'),
    }),
  },
} as const satisfies Record<string, Route>;
