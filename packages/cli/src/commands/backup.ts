import { ProblemError, UnreachableError } from '@pindro/contract';
import { humanSize } from '@pindro/core/browser';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
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
    .action(
      withService(async ({ client, print, progress }, [id]) => {
        const { before } = await client.restoreBackup({ id: id! });
        progress('the service starts anew …');
        const known = await isBack(client);
        const key = known ? '' : `\n  Its keys are those of then: the one of this command is not among them.`;
        print(
          { restored: id, before },
          `${pc.green('✓')} Everything is as it was in ${id}. What was until now is backup ${before}.${key}`,
        );
      }),
    );
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
