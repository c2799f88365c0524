import type { Approval } from '@pindro/contract';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { brief, facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';

/** A question with what it is about, as people read it. */
function showQuestion(one: Approval): string {
  const rows = Object.entries(one.facts).map(([name, value]) => [name, brief(value as never, 120)] as [string, string]);
  const decided = one.decision
    ? [`${one.decision}${one.by ? ` by ${one.by}` : ''}${one.note ? `: ${one.note}` : ''}`]
    : [];
  return [
    pc.bold(one.title),
    ...(one.message ? [one.message] : []),
    ...(rows.length > 0 ? [facts(rows)] : []),
    ...decided,
  ].join('\n');
}

export function approvalCommands(program: Command): void {
  const approval = program.command('approval').description('what people are to decide: list, show, approve, refuse');
  approval
    .command('show <run>')
    .description('what a run asks, with what will be sent')
    .action(
      withService(async ({ client, print }, [run]) => {
        const items = (await client.listApprovals({ query: { open: 'false' } })).items.filter((one) => one.run === run);
        if (items.length === 0) throw usage(`Run ${run} asks nothing`, 'See "pindro approval list".');
        print({ items }, () => items.map(showQuestion).join('\n\n'));
      }),
    );
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
      .option('--all', 'all that the run asks')
      .option(
        '-s, --set <name=value>',
        'sends another value than is asked; may be given more than once',
        collectValue,
        {},
      )
      .action(
        withService(async ({ client, print }, [run, step], options: Record<string, unknown>) => {
          const { note = '', set } = options as { note?: string; set: Record<string, unknown> };
          const { items } = await client.listApprovals({});
          const open = items.filter((one) => one.run === run && (!step || one.path === step));
          if (open.length === 0)
            throw usage(
              `Run ${run} waits for no decision${step ? ` at step "${step}"` : ''}`,
              'See "pindro approval list".',
            );
          if (open.length > 1 && options.all !== true)
            throw usage(`Run ${run} waits at ${open.map((one) => one.path).join(' and ')}`, 'Say at which, or --all.');
          const done = [];
          for (const { path, facts } of open) {
            const changed = Object.keys(set).length > 0 && { value: { ...facts, ...set } as never };
            done.push(await client.decide({ run: run!, body: { path, decision, note, ...changed } }));
          }
          print(
            done.length === 1 ? done[0] : done,
            done.map(({ title }) => `${pc.green('✓')} ${title}: ${decision}`).join('\n'),
          );
        }),
      );
}
