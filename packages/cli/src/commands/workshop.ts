import type { ProposalSummary, Workshop } from '@pindro/contract';
import type { Command } from 'commander';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { facts, moment, table } from '../output/table.js';

const STATES = { open: pc.yellow, taken: pc.green, declined: pc.dim };

export function workshopCommands(program: Command): void {
  const workshop = program
    .command('workshop')
    .description('the built-in endpoint for coding assistants: what is open to them, and what they propose');

  workshop
    .command('show')
    .description('whether it is on, and which flows are open to it')
    .action(
      withService(async ({ client, print }) => {
        const now = await client.getWorkshop();
        print(now, () => showWorkshop(now));
      }),
    );

  for (const on of [true, false])
    workshop
      .command(on ? 'on' : 'off')
      .description(on ? 'switches it on; only keys made for it open it' : 'switches it off; sessions on it end')
      .action(
        withService(async ({ client, print }) => {
          const now = await client.changeWorkshop({ body: { on } });
          print(now, () =>
            on ? switchedOn(now) : `${pc.green('✓')} The workshop is off. What is open to it stays so.`,
          );
        }),
      );

  workshop
    .command('open <flows...>')
    .description('lets assistants see, call and examine flows')
    .action(withService((context, flows) => change(context, { open: flows })));
  workshop
    .command('close <flows...>')
    .description('takes flows away from assistants')
    .action(withService((context, flows) => change(context, { close: flows })));

  workshop
    .command('brief')
    .description('what to tell an assistant, ready to paste into its instructions')
    .action(
      withService(async ({ client, print }) => {
        const { brief } = await client.getWorkshop();
        print({ brief }, brief.trimEnd());
      }),
    );

  workshop
    .command('proposals')
    .description('what assistants would have changed')
    .action(
      withService(async ({ client, print }) => {
        const { proposals } = await client.getWorkshop();
        print({ items: proposals }, () =>
          proposals.length > 0
            ? table(['ID', 'FLOW', 'BY', 'WHEN', 'STATE', 'WHY'], proposals.map(proposalRow))
            : 'Nothing has been proposed yet.',
        );
      }),
    );
  workshop
    .command('look <proposal>')
    .description('one proposal, and how it differs from the draft')
    .action(
      withService(async ({ client, print }, [id]) => {
        const found = await client.getProposal({ id: id! });
        const sign = { '+': pc.green, '-': pc.red, ' ': pc.dim };
        print(found, () =>
          [
            facts([
              ['proposal', `${found.id}  ${STATES[found.state](found.state)}`],
              ['flow', `${found.flow}${found.fresh ? pc.dim('  a new one') : ''}`],
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
  workshop
    .command('take <proposal>')
    .description('makes a proposal the draft; publish it with "pindro flow publish"')
    .option('--note <text>', 'told to whoever proposed it', '')
    .action(
      withService(async ({ client, print }, [id], options: { note?: string }) => {
        const { version } = await client.getProposal({ id: id! });
        const taken = await client.takeProposal({ id: id!, body: { version, note: options.note ?? '' } });
        const next = `Publish it with "pindro flow publish ${taken.flow}".`;
        print(taken, `${pc.green('✓')} It is the draft of ${pc.bold(taken.flow)} now. ${next}`);
      }),
    );
  workshop
    .command('decline <proposal>')
    .description('turns a proposal down')
    .option('--note <text>', 'told to whoever proposed it', '')
    .action(
      withService(async ({ client, print }, [id], options: { note?: string }) => {
        const note = options.note ?? '';
        const declined = await client.declineProposal({ id: id!, body: { note } });
        print(declined, `${pc.green('✓')} Declined${note ? '; whoever proposed it can read why' : ''}`);
      }),
    );
}

async function change({ client, print }: Context, body: { open?: string[]; close?: string[] }): Promise<void> {
  const now = await client.changeWorkshop({ body });
  print(
    now,
    () => `${pc.green('✓')} ${openWords(now)}${now.on ? '' : pc.dim(' Switch it on with "pindro workshop on".')}`,
  );
}

const openWords = ({ flows }: Workshop): string => {
  const open = flows.filter((flow) => flow.open).map(({ name }) => name);
  return open.length > 0 ? `Open to assistants: ${open.join(', ')}.` : 'No flow is open to assistants.';
};

const switchedOn = (now: Workshop): string =>
  [
    `${pc.green('✓')} The workshop answers at ${pc.bold(now.url)}`,
    `  ${openWords(now)}${now.flows.some(({ open }) => open) ? '' : ' Open some with "pindro workshop open FLOW".'}`,
    `  A key for an assistant: ${pc.bold('pindro key issue NAME --endpoint workshop')}, with --propose if it may propose changes.`,
    `  What to tell it: ${pc.bold('pindro workshop brief')}. Settings for it: ${pc.bold('pindro endpoint connect workshop')}.`,
  ].join('\n');

function showWorkshop(now: Workshop): string {
  const waiting = now.proposals.filter(({ state }) => state === 'open').length;
  return [
    facts([
      ['workshop', now.on ? pc.green('on') : pc.dim('off; switch it on with "pindro workshop on"')],
      ['address', now.url],
      ['proposals', waiting > 0 ? pc.yellow(`${waiting} to be looked at`) : 'none to be looked at'],
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
