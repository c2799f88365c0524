import { GRANTS, type Grant } from '@pindro/core/browser';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { changesText, decisionText, showApproval, standingRow } from '../output/approval.js';
import { brief, moment, table } from '../output/table.js';
import { usage } from '../usage.js';

export function approvalCommands(program: Command): void {
  const approval = program
    .command('approval')
    .description('decisions that runs wait for: list, show, approve, refuse, standing, revoke');
  approval
    .command('show <run>')
    .description('what a run asks, with what will be sent')
    .action(
      withService(async ({ client, print }, [run]) => {
        const items = (await client.listApprovals({ query: { open: 'false' } })).items.filter((one) => one.run === run);
        if (items.length === 0) throw usage(`Run ${run} asks nothing`, 'See "pindro approval list".');
        print({ items }, () => items.map(showApproval).join('\n\n'));
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
          one.decision ? decisionText(one) : pc.yellow('open'),
          one.flow,
          brief(one.title, 60),
          one.decision ? changesText(one).join(', ') : brief(one.facts, 60),
          moment(one.askedAt),
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(
                ['RUN', 'STEP', 'STATE', 'FLOW', 'REQUEST', all ? 'CHANGED OR REQUESTED' : 'ARGUMENTS', 'ASKED'],
                rows,
              )
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
      .option('--note <text>', 'a note, which the agent reads')
      .option('--all', 'all that the run asks')
      .option(
        '-s, --set <name=value>',
        'sends another value than is asked; may be given more than once',
        collectValue,
        {},
      )
      .addOption(
        new Option('--for <scope>', 'what the approval covers; the rule of the tool says how much is allowed').choices(
          GRANTS,
        ),
      )
      .option('--holds <duration>', 'how long it covers further calls, such as 8h')
      .action(
        withService(async ({ client, print }, [run, step], options: Record<string, unknown>) => {
          const { note = '', set } = options as { note?: string; set: Record<string, unknown> };
          const { for: grant, holds } = options as { for?: Grant; holds?: string };
          const covers = { ...(grant && { grant }), ...(holds !== undefined && { holds }) };
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
            done.push(await client.decide({ run: run!, body: { path, decision, note, ...covers, ...changed } }));
          }
          print(
            done.length === 1 ? done[0] : done,
            done.map((one) => `${pc.green('✓')} ${one.title}: ${decisionText(one)}`).join('\n'),
          );
        }),
      );
  approval
    .command('standing')
    .description('approvals that cover further calls: for what, on whose behalf, until when')
    .option('--all', 'also those that expired or were revoked')
    .action(
      withService(async ({ client, print }, _args, { all }) => {
        const { items } = await client.listStandingApprovals({ query: { all: String(all === true) } });
        print({ items }, () =>
          items.length > 0
            ? table(['ID', 'TOOL', 'FROM', 'COVERS', 'CALLER', 'APPROVED BY', 'UNTIL'], items.map(standingRow))
            : 'No approval covers further calls.',
        );
      }),
    );
  approval
    .command('revoke <id>')
    .description('revokes an approval that covers further calls')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.revokeStandingApproval({ id: id! });
        print(one, `${pc.green('✓')} ${one.tool} requires approval again for ${one.caller}`);
      }),
    );
}
