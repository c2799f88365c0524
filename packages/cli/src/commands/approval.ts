import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { brief, moment, table } from '../output/table.js';
import { usage } from '../usage.js';

export function approvalCommands(program: Command): void {
  const approval = program.command('approval').description('what people are to decide: list, approve, refuse');
  approval
    .command('list')
    .description('what waits for a person')
    .option('--all', 'also what was decided')
    .action(
      withService(async ({ client, print }, _args, { all }) => {
        const { items } = await client.listApprovals({ query: { open: String(!all) } });
        const rows = items.map((one) => [
          one.run,
          one.path,
          one.decision ?? pc.yellow('open'),
          one.flow,
          brief(one.title, 60),
          moment(one.askedAt),
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['RUN', 'STEP', 'STATE', 'FLOW', 'WHAT', 'ASKED'], rows)
            : 'Nothing waits for anybody.',
        );
      }),
    );
  for (const [verb, decision] of [
    ['approve', 'approved'],
    ['refuse', 'refused'],
  ] as const)
    approval
      .command(`${verb} <run> [step]`)
      .description(`${verb}s what a run asks; the step may be left out where only one waits`)
      .option('--note <text>', 'a word with it')
      .action(
        withService(async ({ client, print }, [run, step], { note }: { note?: string }) => {
          const { items } = await client.listApprovals({});
          const open = items.filter((one) => one.run === run && (!step || one.path === step));
          if (open.length === 0)
            throw usage(
              `Run ${run} waits for no decision${step ? ` at step "${step}"` : ''}`,
              'See "pindro approval list".',
            );
          if (open.length > 1)
            throw usage(`Run ${run} waits at ${open.map((one) => one.path).join(' and ')}`, 'Say at which.');
          const done = await client.decide({ run: run!, body: { path: open[0]!.path, decision, note: note ?? '' } });
          print(done, `${pc.green('✓')} ${done.title}: ${decision}`);
        }),
      );
}
