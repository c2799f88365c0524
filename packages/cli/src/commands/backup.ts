import { type Client, ProblemError, UnreachableError } from '@pindro/contract';
import { humanSize } from '@pindro/core/browser';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { requireYes } from '../input/confirm.js';
import { safe } from '../output/safe.js';
import { moment, table } from '../output/table.js';

/** How long a service may take to start anew, in milliseconds. */
const PATIENCE = 60_000;

export function backupCommands(program: Command): void {
  program
    .command('backup')
    .description('copies everything, secrets and runs included, while the service runs')
    .option('--list', 'the backups there are')
    .option('--remove <id>', 'removes one of them')
    .action(
      withService(async ({ client, print, progress }, _args, options: { list?: boolean; remove?: string }) => {
        if (options.remove !== undefined) {
          await client.removeBackup({ id: options.remove });
          print({ done: true }, `${pc.green('✓')} ${options.remove} is removed`);
          return;
        }
        if (options.list) {
          const { items } = await client.listBackups();
          const rows = items.map((one) => [one.id, moment(one.madeAt), humanSize(one.bytes), one.folder]);
          print({ items }, () =>
            items.length > 0
              ? table(['BACKUP', 'MADE', 'SIZE', 'FOLDER'], rows)
              : 'No backup yet. "pindro backup" makes one.',
          );
          return;
        }
        progress('copying everything …');
        const made = await client.makeBackup();
        print(
          made,
          `${pc.green('✓')} ${made.id}, ${humanSize(made.bytes)}, in ${pc.bold(made.folder)}\n${pc.dim(`Whoever has that folder has every secret. "pindro restore ${made.id}" brings it back.`)}`,
        );
      }),
    );

  program
    .command('restore <id>')
    .description('makes everything as it was in a backup; the service starts anew, and what is now is backed up first')
    .option(
      '--reactivate',
      'also makes keys and approvals that were revoked and people who were removed since then valid again',
    )
    .option('--yes', 'restores without asking')
    .action(
      withService(async ({ client, print, progress, json }, [id], options: { reactivate?: boolean; yes?: boolean }) => {
        const reactivate = options.reactivate === true;
        const affected = await client.previewRestore({ id: id! });
        const list = affectedText(affected, reactivate);
        if (list) process.stderr.write(`${safe(list)}\n`);
        if (list && !options.yes) await requireYes(`Restore ${id}?`, json);
        const { before } = await client.restoreBackup({ id: id!, body: { reactivate } });
        progress('the service starts anew …');
        const known = await isBack(client);
        const key = known ? '' : `\n  Its keys are those of then: the one of this command is not among them.`;
        print(
          { restored: id, before, reactivated: reactivate, ...affected },
          `${pc.green('✓')} Everything is as it was in ${id}. What was until now is backup ${before}.${key}`,
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
      ({ id, name, caller, manage }) => `  key ${id} "${name}" of ${caller}${manage ? ', opens the API' : ''}`,
    ),
    ...people.map(({ name, role, now }) => `  ${name}, ${role} (now ${now ?? 'removed'})`),
    ...approvals.map(
      ({ id, flow, tool, caller }) => `  standing approval ${id} of ${tool || 'a step'} in ${flow} for ${caller}`,
    ),
  ];
  if (lines.length === 0) return '';
  const what = reactivate
    ? 'These were revoked or removed since the backup, and become valid again:'
    : 'These were revoked or removed since the backup, and stay so. Add --reactivate to make them valid again:';
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
