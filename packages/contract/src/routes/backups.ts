import { z } from 'zod';
import { ROLES } from '../roles.js';
import type { Route } from './route.js';
import { done } from './shapes.js';

const backup = z.object({
  id: z.string(),
  madeAt: z.string(),
  bytes: z.number(),
  folder: z.string().describe('Where it stands on the machine of the service; whoever has it has every secret'),
});

const reactivation = z.object({
  keys: z
    .array(z.object({ id: z.string(), name: z.string(), caller: z.string(), manage: z.boolean() }))
    .describe('Keys that are valid in the backup, and revoked, removed or expired now'),
  people: z
    .array(z.object({ name: z.string(), role: z.enum(ROLES), now: z.enum(ROLES).nullable().describe('null: removed') }))
    .describe('People of the backup who were removed, or have a lesser role now'),
  approvals: z
    .array(z.object({ id: z.string(), flow: z.string(), tool: z.string(), caller: z.string() }))
    .describe('Standing approvals that are valid in the backup, and revoked now'),
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
  previewRestore: {
    method: 'GET',
    role: 'owner',
    path: '/backups/:id/restore',
    about: 'Which revoked keys and approvals and removed people restoring a backup would reactivate',
    answer: reactivation,
  },
  restoreBackup: {
    method: 'POST',
    role: 'owner',
    path: '/backups/:id/restore',
    about: 'Makes everything as it was in a backup; the service starts anew, and what is now is backed up first',
    body: z.object({
      reactivate: z
        .boolean()
        .default(false)
        .describe(
          'Also makes revoked keys and approvals and removed people valid again; without it they stay as they are now',
        ),
    }),
    answer: reactivation.extend({
      reactivated: z.boolean(),
      restoring: z.string(),
      before: z.string().describe('The backup of what was until now'),
    }),
  },
} as const satisfies Record<string, Route>;
