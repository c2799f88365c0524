import type { WayIn } from '@pindro/contract';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readObject } from '../input/json.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './whole.js';

const say = (entry: WayIn) =>
  entry.settings.kind === 'schedule' ? `${entry.settings.cron} ${entry.settings.zone}` : (entry.url ?? '');

export function entryCommands(program: Command): void {
  const entry = program
    .command('entry')
    .description('ways into flows: hook, form, chat, schedule, list, show, change, on, off, rename, copy, remove');
  entry
    .command('list [flow]')
    .description('hooks, forms, chats and schedules')
    .option('--search <words>', 'only those with these words in their flow, kind or address')
    .action(
      withService(async ({ client, print }, [flow], { search }: { search?: string }) => {
        const { items } = await client.listEntries({ query: { ...(flow && { flow }), ...(search && { search }) } });
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
    .addOption(
      new Option('--answer <what>', 'what it answers with').choices(['result', 'run', 'response']).default('result'),
    )
    .option('--methods <list>', 'with commas between', 'POST')
    .option('--issue-key <name>', 'for guard key: makes a key that opens it, and shows it this once')
    .action(
      withService(async ({ client, print }, [flow], options: Record<string, string>) => {
        const { path, guard, answer, methods, issueKey } = options;
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
        const opens = `hook/${made.path}`;
        const issued =
          issueKey && guard === 'key' ? await client.issueKey({ body: { name: issueKey, endpoints: [opens] } }) : null;
        const keyLine = issued
          ? `\n  key, shown this once: ${pc.bold(issued.key)}\n  send it as "Authorization: Bearer KEY"`
          : guard === 'key'
            ? `\n  It opens with a key for ${opens}: pindro key issue NAME --endpoint ${opens}`
            : '';
        print(
          issued ? { ...made, key: issued.key } : made,
          () =>
            `${pc.green('✓')} ${made.url}${keyLine}${made.newSecret ? `\n  secret, shown this once: ${pc.bold(made.newSecret)}` : ''}${made.trouble ? `\n  ${pc.yellow(made.trouble)}` : ''}`,
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
            settings: { kind: 'schedule', cron: cron!, zone: zone ?? '', input: readObject(input!) as never },
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
    .command('change <id>')
    .description('changes what a way in takes; the schedule, what guards it, what it answers')
    .option('--cron <cron>', 'for a schedule: when')
    .option('--zone <name>', 'for a schedule: time zone')
    .option('--input <json>', 'for a schedule: what it is given')
    .addOption(new Option('--guard <how>', 'for a hook: who may call').choices(['key', 'signature', 'open']))
    .addOption(new Option('--answer <what>', 'for a hook: what it answers with').choices(['result', 'run', 'response']))
    .option('--methods <list>', 'for a hook: with commas between')
    .option('--secret', 'for a hook: asks for the secret that signs (or reads it from standard input)')
    .action(
      withService(async ({ client, print }, [id], options: Record<string, string>) => {
        const secret = options.secret ? await readSecret('Secret that signs: ') : undefined;
        const one = await client.getEntry({ id: await wholeId(client, id!) });
        const { methods, input, ...told } = options;
        const known = ['cron', 'zone', 'guard', 'answer'].filter((name) => told[name] !== undefined);
        const settings = {
          ...one.settings,
          ...Object.fromEntries(known.map((name) => [name, told[name]])),
          ...(methods !== undefined && { methods: methods.split(',') }),
          ...(input !== undefined && { input: readObject(input) }),
        };
        const body = { settings: settings as never, ...(secret !== undefined && { secret }) };
        const changed = await client.changeEntry({ id: one.id, body });
        print(changed, `${pc.green('✓')} ${changed.settings.kind} of ${changed.flow} is changed: ${say(changed)}`);
      }),
    );
  wholeVerbs(entry, 'way in', {
    named: '<id>',
    show: async (client, [id]) => {
      const one = await client.getEntry({ id: await wholeId(client, id!) });
      const { kind, ...settings } = one.settings;
      const text = facts([
        [kind, say(one)],
        ['into', one.flow],
        ['state', one.on ? 'on' : pc.yellow('off')],
        ['last used', moment(one.usedAt)],
        ...(one.nextAt ? [['next', moment(one.nextAt)] as [string, string]] : []),
        ...Object.entries(settings).map(([name, value]): [string, string] => [name, JSON.stringify(value)]),
        ...(one.trouble ? [['trouble', pc.yellow(one.trouble)] as [string, string]] : []),
      ]);
      return { value: one, text };
    },
    rename: async (client, [id], to) => {
      const changed = await client.changeEntry({ id: await wholeId(client, id!), body: { path: to } });
      return { name: changed.path, changed: [] };
    },
    copy: async (client, [id], to) => {
      const copy = await client.copyEntry({ id: await wholeId(client, id!), body: { path: to } });
      return { name: `${copy.settings.kind} ${copy.url ?? copy.id}, switched off,` };
    },
    remove: async (client, [id], query) => client.removeEntry({ id: await wholeId(client, id!), query }),
  });
}

/** The list shows the beginning of an id, which is enough. */
async function wholeId(
  client: Parameters<Parameters<typeof withService>[0]>[0]['client'],
  id: string,
): Promise<string> {
  const { items } = await client.listEntries({});
  const found = items.filter((one) => one.id.startsWith(id) || `${one.settings.kind}/${one.path}` === id);
  if (found.length !== 1)
    throw usage(
      `There ${found.length === 0 ? 'is no way in' : 'are several ways in'} whose id begins with "${id}"`,
      '"pindro entry list" shows them.',
    );
  return found[0]!.id;
}
