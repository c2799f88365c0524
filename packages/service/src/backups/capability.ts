import { defineCapability } from '../platform/capability.js';
import type { Database } from '../platform/database/open.js';
import { reactivations } from './reactivation.js';
import type { Backup } from './store.js';
import { BackupStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    backups: BackupStore;
  }
}

/** Delay before the restart, so that the response can be sent, in milliseconds. */
const SOON = 100;
const present = ({ id, madeAt, bytes, folder }: Backup) => ({ id, madeAt: madeAt.toISOString(), bytes, folder });

export const backupsCapability = defineCapability({
  name: 'backups',
  needs: ['config', 'record'],
  gives: ['backups'],
  open: ({ settings }) => ({ backups: new BackupStore(settings.data, settings.backups) }),
  routes: (api, { backups, bus, config, record }) => {
    const query =
      ({ driver }: Database) =>
      <T>(sql: string) =>
        driver.prepare(sql).all() as T[];
    const compare = (folder: string) => reactivations(folder, query(config), query(record));
    api.on('listBackups', () => ({ items: backups.list().map(present) }));
    api.on('createBackup', async () => present(await backups.make()));
    api.on('removeBackup', (call) => {
      backups.remove(call.param('id'));
      return { done: true };
    });
    api.on('previewRestore', (call) => compare(backups.requireWhole(call.param('id')).folder));
    api.on('restoreBackup', async (call) => {
      const { id, folder } = backups.requireWhole(call.param('id'));
      const { reactivate } = call.body;
      const affected = compare(folder);
      // What is now can be had again.
      const before = await backups.make();
      setTimeout(() => bus.emit('restore', folder, before.folder, reactivate), SOON);
      return { restoring: id, before: before.id, reactivated: reactivate, ...affected };
    });
  },
});
