import type { Command } from '@commander-js/extra-typings';
import type { ProposalSummary, Workshop } from '@pindro/contract';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { facts, moment, table } from '../output/table.js';

const STATES = { open: pc.yellow, taken: pc.green, declined: pc.dim };

export function workshopCommands(program: Command): void {
  const workshop = program
    .command('workshop')
    .description('the built-in endpoint for coding assistants: its flows, and their proposals');

  showCommand(workshop);

  for (const on of [true, false])
    workshop
      .command(on ? 'enable' : 'disable')
      .description(on ? 'enables it; it requires keys issued for it' : 'disables it and ends its sessions')
      .action(
        withService(async ({ client, print }) => {
          const now = await client.updateWorkshop({ body: { on } });
          print(now, () => (on ? switchedOn(now) : `${pc.green('✓')} The workshop is disabled. Its settings remain.`));
        }),
      );

  allowCommand(workshop);
  denyCommand(workshop);
  instructionsCommand(workshop);
  proposalsCommand(workshop);
  reviewCommand(workshop);
  acceptCommand(workshop);
  rejectCommand(workshop);
}

async function change({ client, print }: Context, body: { open?: string[]; close?: string[] }): Promise<void> {
  const now = await client.updateWorkshop({ body });
  print(
    now,
    () => `${pc.green('✓')} ${openWords(now)}${now.on ? '' : pc.dim(' Enable it with "pindro workshop enable".')}`,
  );
}

const openWords = ({ flows }: Workshop): string => {
  const open = flows.filter((flow) => flow.open).map(({ name }) => name);
  return open.length > 0 ? `Open to assistants: ${open.join(', ')}.` : 'No flow is open to assistants.';
};

const switchedOn = (now: Workshop): string =>
  [
    `${pc.green('✓')} The workshop is enabled at ${pc.bold(now.url)}`,
    `  ${openWords(now)}${now.flows.some(({ open }) => open) ? '' : ' Open some with "pindro workshop allow FLOW".'}`,
    `  A key for an assistant: ${pc.bold('pindro key issue NAME --endpoint workshop')}; add --propose to let it propose changes.`,
    `  Instructions for it: ${pc.bold('pindro workshop instructions')}. Client settings: ${pc.bold('pindro endpoint connect workshop')}.`,
  ].join('\n');

function showWorkshop(now: Workshop): string {
  const waiting = now.proposals.filter(({ state }) => state === 'open').length;
  return [
    facts([
      ['workshop', now.on ? pc.green('enabled') : pc.dim('disabled; enable it with "pindro workshop enable"')],
      ['address', now.url],
      ['proposals', waiting > 0 ? pc.yellow(`${waiting} pending`) : 'none pending'],
    ]),
    '',
    table(
      ['FLOW', 'OPEN TO ASSISTANTS', 'LIVE'],
      now.flows.map(({ name, open, live }) => [name, open ? pc.green('yes') : 'no', live ? 'yes' : pc.dim('not yet')]),
    ),
    '',
    table(
      ['TOOL', 'OPENED BY', 'TITLE'],
      now.tools.map(({ name, wider, title }) => [name, wider ? 'keys with --propose' : 'every key', title]),
    ),
  ].join('\n');
}

const proposalRow = (one: ProposalSummary): string[] => [
  one.id,
  one.fresh ? `${one.flow} (new)` : one.flow,
  one.caller,
  moment(one.createdAt),
  STATES[one.state](one.state),
  one.why.length > 60 ? `${one.why.slice(0, 59)}…` : one.why,
];

function showCommand(workshop: Command): void {
  workshop
    .command('show')
    .description('shows whether it is enabled, and which flows are open to it')
    .action(
      withService(async ({ client, print }) => {
        const now = await client.getWorkshop();
        print(now, () => showWorkshop(now));
      }),
    );
}

function allowCommand(workshop: Command): void {
  workshop
    .command('allow <flows...>')
    .description('lets assistants see, call and examine flows')
    .action(withService((context, [flows]) => change(context, { open: flows })));
}

function denyCommand(workshop: Command): void {
  workshop
    .command('deny <flows...>')
    .description('removes access to flows from assistants')
    .action(withService((context, [flows]) => change(context, { close: flows })));
}

function instructionsCommand(workshop: Command): void {
  workshop
    .command('instructions')
    .description('prints instructions for an assistant, ready to paste')
    .action(
      withService(async ({ client, print }) => {
        const { brief } = await client.getWorkshop();
        print({ brief }, brief.trimEnd());
      }),
    );
}

function proposalsCommand(workshop: Command): void {
  workshop
    .command('proposals')
    .description('lists proposals of assistants')
    .action(
      withService(async ({ client, print }) => {
        const { proposals } = await client.getWorkshop();
        print({ items: proposals }, () =>
          proposals.length > 0
            ? table(['ID', 'FLOW', 'BY', 'WHEN', 'STATE', 'WHY'], proposals.map(proposalRow))
            : 'No proposals yet.',
        );
      }),
    );
}

function reviewCommand(workshop: Command): void {
  workshop
    .command('review <proposal>')
    .description('shows one proposal and its difference from the draft')
    .action(
      withService(async ({ client, print }, [id]) => {
        const found = await client.getProposal({ id });
        const sign = { '+': pc.green, '-': pc.red, ' ': pc.dim };
        print(found, () =>
          [
            facts([
              ['proposal', `${found.id}  ${STATES[found.state](found.state)}`],
              ['flow', `${found.flow}${found.fresh ? pc.dim('  a new flow') : ''}`],
              ['by', `${found.caller}, with key ${found.key}, through ${found.client || 'an unnamed client'}`],
              ['why', found.why],
              ...found.mistakes.map(({ at, message }): [string, string] => ['mistake', pc.red(`${at}: ${message}`)]),
            ]),
            '',
            ...found.comparison.changes.map(({ what }) => `  ${what}`),
            '',
            ...found.comparison.lines.map((line) => sign[line.sign](`${line.sign} ${line.text}`)),
          ].join('\n'),
        );
      }),
    );
}

function acceptCommand(workshop: Command): void {
  workshop
    .command('accept <proposal>')
    .description('accepts a proposal as the draft; publish it with "pindro flow publish"')
    .option('--note <text>', 'reply to the proposer', '')
    .action(
      withService(async ({ client, print }, [id], options: { note?: string }) => {
        const { version } = await client.getProposal({ id });
        const taken = await client.acceptProposal({ id, body: { version, note: options.note ?? '' } });
        const next = `Publish it with "pindro flow publish ${taken.flow}".`;
        print(taken, `${pc.green('✓')} The proposal is now the draft of ${pc.bold(taken.flow)}. ${next}`);
      }),
    );
}

function rejectCommand(workshop: Command): void {
  workshop
    .command('reject <proposal>')
    .description('rejects a proposal')
    .option('--note <text>', 'reply to the proposer', '')
    .action(
      withService(async ({ client, print }, [id], options: { note?: string }) => {
        const note = options.note ?? '';
        const declined = await client.rejectProposal({ id, body: { note } });
        print(declined, `${pc.green('✓')} Rejected${note ? '; the proposer can read the note' : ''}`);
      }),
    );
}
