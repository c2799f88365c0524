import type { Command } from '@commander-js/extra-typings';
import { type Client, ProblemError, UnreachableError } from '@pindro/contract';
import { humanSize } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { requireYes } from '../input/confirm.js';
import { safe } from '../output/safe.js';
import { moment, table } from '../output/table.js';

/** Time limit for the restart of the service, in milliseconds. */
const PATIENCE = 60_000;

export function backupCommands(program: Command): void {
  program
    .command('backup')
    .description('backs up everything, including secrets and runs, while the service keeps running')
    .option('--list', 'lists the backups')
    .option('--remove <id>', 'removes a backup')
    .action(
      withService(async ({ client, print, progress }, _args, options: { list?: boolean; remove?: string }) => {
        if (options.remove !== undefined) {
          await client.removeBackup({ id: options.remove });
          print({ done: true }, `${pc.green('✓')} Removed ${options.remove}`);
          return;
        }
        if (options.list) {
          const { items } = await client.listBackups();
          const rows = items.map((one) => [one.id, moment(one.madeAt), humanSize(one.bytes), one.folder]);
          print({ items }, () =>
            items.length > 0
              ? table(['BACKUP', 'MADE', 'SIZE', 'FOLDER'], rows)
              : 'No backups yet. Create one with "pindro backup".',
          );
          return;
        }
        progress('backing up …');
        const made = await client.createBackup();
        print(
          made,
          `${pc.green('✓')} ${made.id}, ${humanSize(made.bytes)}, in ${pc.bold(made.folder)}\n${pc.dim(`This folder contains every secret. Restore it with "pindro restore ${made.id}".`)}`,
        );
      }),
    );

  program
    .command('restore <id>')
    .description('restores a backup and restarts the service; the present state is backed up first')
    .option(
      '--reactivate',
      'also reactivates keys and approvals that were revoked and people who were removed since then',
    )
    .option('--yes', 'restores without asking')
    .action(
      withService(async ({ client, print, progress, json }, [id], options: { reactivate?: boolean; yes?: boolean }) => {
        const reactivate = options.reactivate === true;
        const affected = await client.previewRestore({ id });
        const list = affectedText(affected, reactivate);
        if (list) process.stderr.write(`${safe(list)}\n`);
        if (list && !options.yes) await requireYes(`Restore ${id}?`, json);
        const { before } = await client.restoreBackup({ id, body: { reactivate } });
        progress('restarting the service …');
        const known = await isBack(client);
        const key = known ? '' : `\n The restored service has other keys: the key of this command is no longer valid.`;
        print(
          { restored: id, before, reactivated: reactivate, ...affected },
          `${pc.green('✓')} Restored backup ${id}. The previous state is in backup ${before}.${key}`,
        );
      }),
    );
}

/** Lists what was revoked or removed since a backup, and whether restoring reactivates it. Empty if there is nothing. */
function affectedText(
  { keys, people, approvals }: Awaited<ReturnType<Client['previewRestore']>>,
  reactivate: boolean,
): string {
  const lines = [
    ...keys.map(
      ({ id, name, caller, manage }) => `  key ${id} "${name}" of ${caller}${manage ? ', with API access' : ''}`,
    ),
    ...people.map(({ name, role, now }) => `  ${name}, ${role} (now ${now ?? 'removed'})`),
    ...approvals.map(
      ({ id, flow, tool, caller }) => `  standing approval ${id} of ${tool || 'a step'} in ${flow} for ${caller}`,
    ),
  ];
  if (lines.length === 0) return '';
  const what = reactivate
    ? 'Revoked or removed since the backup, and now reactivated:'
    : 'Revoked or removed since the backup, and not reactivated. Add --reactivate to reactivate them:';
  return [what, ...lines].join('\n');
}

/** Waits until the service answers again. @returns whether it knows the key of this command */
async function isBack(client: { status(): Promise<unknown> }): Promise<boolean> {
  const end = Date.now() + PATIENCE;
  // It answers for a moment yet before it stops.
  await new Promise((resolve) => setTimeout(resolve, 400));
  for (;;) {
    try {
      await client.status();
      return true;
    } catch (error) {
      if (error instanceof ProblemError && error.problem.status === 401) return false;
      if (!(error instanceof UnreachableError || error instanceof ProblemError) || Date.now() > end) throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}
