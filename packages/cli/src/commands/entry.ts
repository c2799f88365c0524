import { type Command, Option } from '@commander-js/extra-typings';
import { type EntryPoint, RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readObject } from '../input/json.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';

const say = (entry: EntryPoint) =>
  entry.settings.kind === 'schedule' ? `${entry.settings.cron} ${entry.settings.zone}` : (entry.url ?? '');

export function entryCommands(program: Command): void {
  const entry = program
    .command('entry')
    .description(
      'entry points of flows: hook, form, chat, schedule, list, show, update, enable, disable, rename, copy, remove',
    );
  listCommand(entry);
  hookCommand(entry);
  formOrChatCommand(entry);
  scheduleCommand(entry);
  enableOrDisableCommand(entry);
  updateCommand(entry);
  wholeVerbs(entry, RESOURCE.entry, {
    named: '<id>',
    show: async (client, [id]) => {
      const one = await client.getEntry({ id: await wholeId(client, id!) });
      const { kind, ...settings } = one.settings;
      const text = facts([
        [kind, say(one)],
        ['into', one.flow],
        ['state', one.on ? 'enabled' : pc.yellow('disabled')],
        ['last used', moment(one.usedAt)],
        ...(one.nextAt ? [['next', moment(one.nextAt)] as [string, string]] : []),
        ...Object.entries(settings).map(([name, value]): [string, string] => [name, JSON.stringify(value)]),
        ...(one.trouble ? [['trouble', pc.yellow(one.trouble)] as [string, string]] : []),
      ]);
      return { value: one, text };
    },
    rename: async (client, [id], to) => {
      const changed = await client.updateEntry({ id: await wholeId(client, id!), body: { path: to } });
      return { name: changed.path, changed: [] };
    },
    copy: async (client, [id], to) => {
      const copy = await client.copyEntry({ id: await wholeId(client, id!), body: { path: to } });
      return { name: `${copy.settings.kind} ${copy.url ?? copy.id}, disabled,` };
    },
    remove: async (client, [id], force) =>
      client.removeEntry({ id: await wholeId(client, id!), query: { force: String(force) } }),
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
      `There ${found.length === 0 ? 'is no entry point' : 'are several entry points'} whose ID starts with "${id}"`,
      'List them with "pindro entry list".',
    );
  return found[0]!.id;
}

function listCommand(entry: Command): void {
  entry
    .command('list [flow]')
    .description('lists webhooks, forms, chats and schedules')
    .option('--search <words>', 'filters by words in flow, kind or address')
    .action(
      withService(async ({ client, print }, [flow], { search }: { search?: string }) => {
        const { items } = await client.listEntries({ query: { ...(flow && { flow }), ...(search && { search }) } });
        const rows = items.map((one) => [
          one.id.slice(0, 8),
          one.settings.kind,
          one.flow,
          one.on ? 'enabled' : pc.yellow('disabled'),
          say(one),
          one.nextAt ? moment(one.nextAt) : '-',
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['ID', 'KIND', 'FLOW', 'STATE', 'ADDRESS OR TIME', 'NEXT'], rows)
            : 'No entry points yet.',
        );
      }),
    );
}

function hookCommand(entry: Command): void {
  entry
    .command('hook <flow>')
    .description('creates a webhook that other programs call')
    .option('--path <name>', 'last part of the address; the name of the flow by default')
    .addOption(new Option('--auth <how>', 'who may call').choices(['key', 'signature', 'open']).default('key'))
    .addOption(
      new Option('--respond <what>', 'what it responds with').choices(['result', 'run', 'response']).default('result'),
    )
    .option('--methods <list>', 'separated by commas', 'POST')
    .option('--issue-key <name>', 'for --auth key: issues a key for it and shows it once')
    .action(
      withService(async ({ client, print }, [flow], options) => {
        const { path, auth, respond, methods, issueKey } = options;
        const made = await client.createEntry({
          body: {
            flow,
            ...(path && { path }),
            settings: {
              kind: 'hook',
              guard: auth as 'key',
              answer: respond as 'run',
              methods: methods!.split(',') as ['POST'],
            },
          },
        });
        const opens = `hook/${made.path}`;
        const issued =
          issueKey && auth === 'key' ? await client.issueKey({ body: { name: issueKey, endpoints: [opens] } }) : null;
        const keyLine = issued
          ? `\n key, shown only once: ${pc.bold(issued.key)}\n send it as "Authorization: Bearer KEY"`
          : auth === 'key'
            ? `\n It requires a key for ${opens}: pindro key issue NAME --endpoint ${opens}`
            : '';
        print(
          issued ? { ...made, key: issued.key } : made,
          () =>
            `${pc.green('✓')} ${made.url}${keyLine}${made.newSecret ? `\n secret, shown only once: ${pc.bold(made.newSecret)}` : ''}${made.trouble ? `\n  ${pc.yellow(made.trouble)}` : ''}`,
        );
      }),
    );
}

function formOrChatCommand(entry: Command): void {
  for (const [kind, what] of [
    ['form', 'creates a form page for its inputs'],
    ['chat', 'creates a chat page'],
  ] as const)
    entry
      .command(`${kind} <flow>`)
      .description(`opens ${what}`)
      .option('--path <name>', 'last part of the address; the name of the flow by default')
      .action(
        withService(async ({ client, print }, [flow], { path }: { path?: string }) => {
          const made = await client.createEntry({ body: { flow, ...(path && { path }), settings: { kind } } });
          print(made, `${pc.green('✓')} ${made.url}${made.trouble ? `\n  ${pc.yellow(made.trouble)}` : ''}`);
        }),
      );
}

function scheduleCommand(entry: Command): void {
  entry
    .command('schedule <flow> <cron>')
    .description('runs it on a schedule: minute, hour, day of month, month, day of week')
    .option('--zone <name>', "time zone; the workspace's by default")
    .option('--input <json>', 'input of each run', '{}')
    .action(
      withService(async ({ client, print }, [flow, cron], { zone, input }: Record<string, string>) => {
        const made = await client.createEntry({
          body: {
            flow,
            settings: { kind: 'schedule', cron: cron!, zone: zone ?? '', input: readObject(input!) },
          },
        });
        print(made, `${pc.green('✓')} next at ${made.nextAt ? moment(made.nextAt) : 'no time'}`);
      }),
    );
}

function enableOrDisableCommand(entry: Command): void {
  for (const [verb, on] of [
    ['enable', true],
    ['disable', false],
  ] as const)
    entry
      .command(`${verb} <id>`)
      .description(`${verb}s an entry point`)
      .action(
        withService(async ({ client, print }, [id]) => {
          const changed = await client.updateEntry({ id: await wholeId(client, id), body: { on } });
          print(changed, `${pc.green('✓')} ${changed.settings.kind} of ${changed.flow} is ${verb}d`);
        }),
      );
}

function updateCommand(entry: Command): void {
  entry
    .command('update <id>')
    .description('changes an entry point: schedule, authentication, response')
    .option('--cron <cron>', 'for a schedule: cron expression')
    .option('--zone <name>', 'for a schedule: time zone')
    .option('--input <json>', 'for a schedule: input of each run')
    .addOption(new Option('--auth <how>', 'for a webhook: who may call').choices(['key', 'signature', 'open']))
    .addOption(
      new Option('--respond <what>', 'for a webhook: what it responds with').choices(['result', 'run', 'response']),
    )
    .option('--methods <list>', 'for a webhook: separated by commas')
    .option('--secret', 'for a webhook: prompts for the signing secret (or reads it from standard input)')
    .action(
      withService(async ({ client, print }, [id], options) => {
        const secret = options.secret ? await readSecret('Signing secret: ') : undefined;
        const one = await client.getEntry({ id: await wholeId(client, id) });
        const { methods, input, cron, zone, auth, respond } = options;
        const given = Object.entries({ cron, zone, guard: auth, answer: respond });
        const settings = {
          ...one.settings,
          ...Object.fromEntries(given.filter(([, value]) => value !== undefined)),
          ...(methods !== undefined && { methods: methods.split(',') }),
          ...(input !== undefined && { input: readObject(input) }),
        };
        const body = { settings: settings as typeof one.settings, ...(secret !== undefined && { secret }) };
        const changed = await client.updateEntry({ id: one.id, body });
        print(changed, `${pc.green('✓')} Updated ${changed.settings.kind} of ${changed.flow}: ${say(changed)}`);
      }),
    );
}
