import { type Command, Option } from '@commander-js/extra-typings';
import { GRANTS } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { changesText, decisionText, showApproval, standingRow } from '../output/approval.js';
import { brief, moment, table } from '../output/table.js';
import { usage } from '../usage.js';

export function approvalCommands(program: Command): void {
  const approval = program
    .command('approval')
    .description('pending and past approvals: list, show, approve, reject, grants, revoke');
  showCommand(approval);
  listCommand(approval);
  approveOrRejectCommand(approval);
  grantsCommand(approval);
  revokeCommand(approval);
}

function showCommand(approval: Command): void {
  approval
    .command('show <run>')
    .description('shows the pending request of a run and its arguments')
    .action(
      withService(async ({ client, print }, [run]) => {
        const items = (await client.listApprovals({ query: { open: 'false' } })).items.filter((one) => one.run === run);
        if (items.length === 0)
          throw usage(`Run ${run} is not waiting for an approval`, 'List them with "pindro approval list".');
        print({ items }, () => items.map(showApproval).join('\n\n'));
      }),
    );
}

function listCommand(approval: Command): void {
  approval
    .command('list')
    .description('lists pending approvals')
    .option('--all', 'includes decided ones')
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
            : 'No approval is pending.',
        );
      }),
    );
}

function approveOrRejectCommand(approval: Command): void {
  for (const [verb, decision] of [
    ['approve', 'approved'],
    ['reject', 'refused'],
  ] as const)
    approval
      .command(`${verb} <run> [step]`)
      .description(`${verb}s a pending request; the step is optional if only one is pending`)
      .option('--note <text>', 'a note for the agent')
      .option('--all', 'all pending requests of the run')
      .option('-s, --set <name=value>', 'changes an argument; repeatable', collectValue, {})
      .addOption(
        new Option('--scope <scope>', "the scope of the approval, within the limit set by the tool's rule").choices(
          GRANTS,
        ),
      )
      .option('--valid-for <duration>', 'how long it covers further calls, such as 8h')
      .action(
        withService(async ({ client, print }, [run, step], options) => {
          const { note = '', set } = options;
          const { scope: grant, validFor: holds } = options;
          const covers = { ...(grant && { grant }), ...(holds !== undefined && { holds }) };
          const { items } = await client.listApprovals({});
          const open = items.filter((one) => one.run === run && (!step || one.path === step));
          if (open.length === 0)
            throw usage(
              `Run ${run} is not waiting for an approval${step ? ` at step "${step}"` : ''}`,
              'List them with "pindro approval list".',
            );
          if (open.length > 1 && options.all !== true)
            throw usage(
              `Run ${run} is waiting at ${open.map((one) => one.path).join(' and ')}`,
              'Name the step, or add --all.',
            );
          const done = [];
          for (const { path, facts } of open) {
            const changed = Object.keys(set).length > 0 && { value: { ...facts, ...set } };
            done.push(await client.decide({ run, body: { path, decision, note, ...covers, ...changed } }));
          }
          print(
            done.length === 1 ? done[0] : done,
            done.map((one) => `${pc.green('✓')} ${one.title}: ${decisionText(one)}`).join('\n'),
          );
        }),
      );
}

function grantsCommand(approval: Command): void {
  approval
    .command('grants')
    .description('lists approvals that cover further calls: tool, caller and expiry')
    .option('--all', 'includes expired and revoked ones')
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
}

function revokeCommand(approval: Command): void {
  approval
    .command('revoke <id>')
    .description('revokes an approval that covers further calls')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.revokeStandingApproval({ id });
        print(one, `${pc.green('✓')} ${one.tool} requires approval again for ${one.caller}`);
      }),
    );
}
