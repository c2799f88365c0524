import { humanDuration } from '@pindro/core/browser';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { showRun } from '../output/run-tree.js';
import { brief, moment, state, table } from '../output/table.js';
import { showOutcome } from './flow.js';
import { wholeNumber } from './table.js';

const STATES = ['queued', 'running', 'waiting', 'done', 'failed', 'cancelled', 'interrupted'] as const;

export function runCommands(program: Command): void {
  const run = program.command('run').description('runs: list, show, again, cancel');

  run
    .command('list')
    .description('runs, newest first')
    .option('--flow <name>', 'only of this flow')
    .addOption(new Option('--state <state>', 'only in this state').choices(STATES))
    .option('--caller <id>', 'only on behalf of this caller')
    .option('--session <name>', 'only of this conversation')
    .option('--roots', 'only runs that no other run started')
    .option('--limit <count>', 'at most so many', wholeNumber, 20)
    .action(
      withService(async ({ client, print }, _args, options: Record<string, unknown>) => {
        const {
          flow,
          state: wanted,
          caller,
          session,
          limit,
          roots,
        } = options as {
          flow?: string;
          state?: 'done';
          caller?: string;
          session?: string;
          limit: number;
          roots?: boolean;
        };
        const page = await client.listRuns({
          query: {
            limit,
            ...(flow && { flow }),
            ...(wanted && { state: wanted }),
            ...(caller && { caller }),
            ...(session && { session }),
            ...(roots && { roots: 'true' }),
          },
        });
        const rows = page.items.map((one) => [
          one.id,
          one.flow,
          state(one.state),
          one.endedAt ? humanDuration(Date.parse(one.endedAt) - Date.parse(one.startedAt)) : '',
          moment(one.startedAt),
          one.caller,
          one.title ? pc.red(brief(one.title, 90)) : '',
        ]);
        print(page, () =>
          page.items.length > 0
            ? table(['RUN', 'FLOW', 'STATE', 'TOOK', 'STARTED', 'CALLER', 'WHAT WENT WRONG'], rows)
            : 'No run yet.',
        );
      }),
    );

  run
    .command('show <id>')
    .description('one run: what went wrong, then the whole trace')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.getRun({ id: id! });
        print(one, () => showRun(one));
      }),
    );

  run
    .command('again <id>')
    .description('runs the same input on the draft')
    .action(
      withService(async ({ client, print, progress }, [id]) => {
        progress('running it again on the draft …');
        showOutcome({ print }, await client.runAgain({ id: id! }));
      }),
    );

  run
    .command('cancel <id>')
    .description('cancels a run that is under way')
    .action(
      withService(async ({ client, print }, [id]) => {
        await client.cancelRun({ id: id! });
        print({ done: true }, `${pc.green('✓')} ${id} is being cancelled`);
      }),
    );
}
