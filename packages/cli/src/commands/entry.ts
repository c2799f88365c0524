import type { WayIn } from '@pindro/contract';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment, table } from '../output/table.js';

const say = (entry: WayIn) =>
  entry.settings.kind === 'schedule' ? `${entry.settings.cron} ${entry.settings.zone}` : (entry.url ?? '');

export function entryCommands(program: Command): void {
  const entry = program
    .command('entry')
    .description('ways into flows: list, hook, form, chat, schedule, on, off, remove');
  entry
    .command('list [flow]')
    .description('hooks, forms, chats and schedules')
    .action(
      withService(async ({ client, print }, [flow]) => {
        const { items } = await client.listEntries({ query: flow ? { flow } : {} });
        const rows = items.map((one) => [
          one.id.slice(0, 8),
          one.settings.kind,
          one.flow,
          one.on ? 'on' : pc.yellow('off'),
          say(one),
          one.nextAt ? moment(one.nextAt) : '-',
        ]);
        print({ items }, () =>
          items.length > 0 ? table(['ID', 'KIND', 'FLOW', 'STATE', 'ADDRESS OR TIME', 'NEXT'], rows) : 'No way in yet.',
        );
      }),
    );
  entry
    .command('hook <flow>')
    .description('opens an address that other programs call')
    .option('--path <name>', 'its part of the address; the name of the flow if left out')
    .addOption(new Option('--guard <how>', 'who may call').choices(['key', 'signature', 'open']).default('key'))
    .addOption(new Option('--answer <what>', 'what it answers with').choices(['result', 'run']).default('result'))
    .option('--methods <list>', 'with commas between', 'POST')
    .action(
      withService(async ({ client, print }, [flow], { path, guard, answer, methods }: Record<string, string>) => {
        const made = await client.addEntry({
          body: {
            flow: flow!,
            ...(path && { path }),
            settings: {
              kind: 'hook',
              guard: guard as 'key',
              answer: answer as 'run',
              methods: methods!.split(',') as ['POST'],
            },
          },
        });
        print(
          made,
          () =>
            `${pc.green('✓')} ${made.url}${made.newSecret ? `\n  secret, shown this once: ${pc.bold(made.newSecret)}` : ''}${made.trouble ? `\n  ${pc.yellow(made.trouble)}` : ''}`,
        );
      }),
    );
  for (const [kind, what] of [
    ['form', 'a page made from its inputs'],
    ['chat', 'a page to talk to it'],
  ] as const)
    entry
      .command(`${kind} <flow>`)
      .description(`opens ${what}`)
      .option('--path <name>', 'its part of the address; the name of the flow if left out')
      .action(
        withService(async ({ client, print }, [flow], { path }: { path?: string }) => {
          const made = await client.addEntry({ body: { flow: flow!, ...(path && { path }), settings: { kind } } });
          print(made, `${pc.green('✓')} ${made.url}${made.trouble ? `\n  ${pc.yellow(made.trouble)}` : ''}`);
        }),
      );
  entry
    .command('schedule <flow> <cron>')
    .description('begins it at set times: minute, hour, day of month, month, day of week')
    .option('--zone <name>', "time zone; the workspace's if left out")
    .option('--input <json>', 'what it is given', '{}')
    .action(
      withService(async ({ client, print }, [flow, cron], { zone, input }: Record<string, string>) => {
        const made = await client.addEntry({
          body: {
            flow: flow!,
            settings: { kind: 'schedule', cron: cron!, zone: zone ?? '', input: JSON.parse(input!) },
          },
        });
        print(made, `${pc.green('✓')} next at ${made.nextAt ? moment(made.nextAt) : 'no time'}`);
      }),
    );
  for (const [verb, on] of [
    ['on', true],
    ['off', false],
  ] as const)
    entry
      .command(`${verb} <id>`)
      .description(`switches a way in ${verb}`)
      .action(
        withService(async ({ client, print }, [id]) => {
          const changed = await client.changeEntry({ id: await wholeId(client, id!), body: { on } });
          print(changed, `${pc.green('✓')} ${changed.settings.kind} of ${changed.flow} is ${verb}`);
        }),
      );
  entry
    .command('remove <id>')
    .description('closes a way in')
    .action(
      withService(async ({ client, print }, [id]) => {
        await client.removeEntry({ id: await wholeId(client, id!) });
        print({ done: true }, `${pc.green('✓')} closed`);
      }),
    );
}

/** The list shows the beginning of an id, which is enough. */
async function wholeId(
  client: Parameters<Parameters<typeof withService>[0]>[0]['client'],
  id: string,
): Promise<string> {
  const { items } = await client.listEntries({});
  const found = items.filter((one) => one.id.startsWith(id));
  if (found.length !== 1)
    throw new Error(
      `There ${found.length === 0 ? 'is no way in' : 'are several ways in'} whose id begins with "${id}".`,
    );
  return found[0]!.id;
}
