import type { Command } from '@commander-js/extra-typings';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment, table } from '../output/table.js';

export function undoCommand(program: Command): void {
  program
    .command('undo [id]')
    .description('restores what was removed in the last ten minutes; the most recent removal by default')
    .option('--list', 'lists what can be restored')
    .action(
      withService(async ({ client, print }, [id], { list }: { list?: boolean }) => {
        const { items } = await client.listRemovals();
        if (list || (!id && items.length === 0)) {
          const rows = items.map((one) => [one.id, one.what, one.name, one.by, moment(one.until)]);
          print({ items }, () =>
            items.length > 0
              ? table(['ID', 'WHAT', 'NAME', 'REMOVED BY', 'CAN BE RESTORED UNTIL'], rows)
              : 'Nothing was removed in the last ten minutes.',
          );
          return;
        }
        const back = await client.restoreRemoved({ id: id || items[0]!.id });
        print(back, `${pc.green('✓')} Restored ${back.what} ${back.name}`);
      }),
    );
}
