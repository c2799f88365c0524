import { humanDuration, milliseconds, RUN_STATES } from '@pindro/core/browser';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { recordLine } from '../output/record.js';
import { showRun } from '../output/run-tree.js';
import { brief, moment, state, table } from '../output/table.js';
import { showOutcome } from './flow-run.js';
import { wholeNumber } from './table.js';

const AGAIN_ON = ['draft', 'live', 'ran'] as const;

export function runCommands(program: Command): void {
  const run = program.command('run').description('runs: list, show, again, cure, make-flow, cancel, prune');

  run
    .command('list')
    .description('runs, newest first')
    .option('--flow <name>', 'only of this flow')
    .addOption(new Option('--state <state>', 'only in this state').choices(RUN_STATES))
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
          one.title ? pc.red(brief(one.title, 90)) : one.doubt ? pc.yellow(brief(one.doubt, 90)) : '',
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
    .description('runs the same input again')
    .addOption(
      new Option('--on <what>', 'the draft (if left out), what is live, or the document that ran').choices(AGAIN_ON),
    )
    .action(
      withService(async ({ client, print, progress }, [id], { on }: Record<string, unknown>) => {
        progress('running it again …');
        const chosen = AGAIN_ON.find((one) => one === on);
        showOutcome({ print }, await client.runAgain({ id: id!, body: chosen ? { on: chosen } : {} }));
      }),
    );

  run
    .command('make-flow <id> <name>')
    .description('makes a draft that does without a model what the agent of a run did')
    .action(
      withService(async ({ client, print }, [id, name]) => {
        const made = await client.flowOfRun({ id: id!, body: { name: name! } });
        const left = made.mistakes > 0 ? `, with ${made.mistakes} to mend` : '';
        print(made, `${pc.green('✓')} ${made.name} is a draft${left}\n${pc.dim(`pindro flow show ${made.name}`)}`);
      }),
    );

  run
    .command('cure <id>')
    .description('makes the change that a finding of the run proposes')
    .option('--finding <fingerprint>', 'which finding, where several propose one')
    .action(
      withService(async ({ client, print }, [id], { finding }: Record<string, unknown>) => {
        const { done } = await client.cureRun({ id: id!, body: finding ? { finding: String(finding) } : {} });
        print({ done }, `${pc.green('✓')} done: ${done}\n${pc.dim(`pindro run again ${id}`)}`);
      }),
    );

  run
    .command('prune')
    .description('lets go of old runs now, with all they began')
    .option('--older-than <time>', 'that ended so long ago', '30d')
    .action(
      withService(async ({ client, print }, _args, options: Record<string, unknown>) => {
        const olderThanDays = milliseconds(String(options.olderThan)) / (24 * 60 * 60_000);
        const done = await client.pruneRuns({ body: { olderThanDays } });
        const what = done.removed === 1 ? '1 run has' : `${done.removed} runs have`;
        print(done, () => `${what} gone. ${recordLine(done.record)}`);
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
