import { type Command, Option } from '@commander-js/extra-typings';
import { type Client, KEY_GAP, RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readArguments } from '../input/rules.js';
import { showSettings } from '../output/client-settings.js';
import { showReview, showSelfTest, showUsage } from '../output/review.js';
import { facts, moment, table } from '../output/table.js';
import { showValues } from '../output/values.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';
import { wholeNumber } from './table.js';

/** The name of the one model connection. @throws a usage error where there is none, or are several */
async function onlyModel(client: Client): Promise<string> {
  const { items } = await client.listModels();
  if (items.length === 1) return items[0]!.name;
  throw items.length === 0
    ? usage('No model connections yet', 'Add one with "pindro model add NAME ADDRESS MODEL".')
    : usage(
        `There are ${items.length} model connections`,
        `Choose one with --model: ${items.map((one) => one.name).join(', ')}.`,
      );
}

export function endpointCommands(program: Command): void {
  const endpoint = program
    .command('endpoint')
    .description('MCP endpoints: create them, describe and review their tools, connect clients, see usage');

  listCommand(endpoint);
  showCommand(endpoint);
  connectCommand(endpoint);
  selectToolCommand(endpoint);
  createCommand(endpoint);
  updateCommand(endpoint);
  enableOrDisableCommand(endpoint);

  wholeVerbs(endpoint, RESOURCE.endpoint, {
    named: '<name>',
    rename: async (client, [name], to) => {
      const { items } = await client.endpointUses({ name: name! });
      const renamed = await client.renameEndpoint({ name: name!, body: { to } });
      return { ...renamed, changed: items };
    },
  });

  addToolCommand(endpoint);
  describeToolCommand(endpoint);
  removeToolCommand(endpoint);
  reviewCommand(endpoint);
  testCommand(endpoint);
  usageCommand(endpoint);
  sessionsCommand(endpoint);
}

function listCommand(endpoint: Command): void {
  endpoint
    .command('list [words]')
    .description('lists endpoints, optionally filtered by words in their name or description')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listEndpoints({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['ENDPOINT', 'TOOLS', 'KEYS', 'SESSIONS', 'ADDRESS'],
                items.map((one) => [
                  one.on ? one.name : `${one.name} ${pc.yellow('(off)')}`,
                  String(one.tools),
                  String(one.keys),
                  String(one.sessions),
                  one.url,
                ]),
              )
            : search
              ? 'No matching endpoints.'
              : 'No endpoints yet. Create one with "pindro flow expose FLOW".',
        );
      }),
    );
}

function showCommand(endpoint: Command): void {
  endpoint
    .command('show <name>')
    .description('shows one endpoint with its tools and keys')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.getEndpoint({ name });
        const tools = one.toolList.map(
          (tool) =>
            `  ${pc.bold(tool.name)}  ${pc.dim(tool.target)}\n    ${tool.description.trim()}${tool.set.length > 0 ? `\n    ${pc.dim(`set: ${tool.set.join(', ')}`)}` : ''}${tool.trouble ? `\n    ${pc.red(tool.trouble)}` : ''}`,
        );
        const keys = table(
          ['KEY', 'CALLER', 'STAGE', 'LAST USED'],
          one.keyList.map((key) => [`${key.beginning} ${key.name}`, key.caller, key.stage, moment(key.lastUsedAt)]),
        );
        print(one, () =>
          [
            facts([
              ['endpoint', `${one.name}  ${pc.dim(one.title)}`],
              ['address', one.url],
              ['access', one.access],
              ...(one.offSince ? [['off', `since ${moment(one.offSince)}`] as [string, string]] : []),
              ['instructions', one.instructions || '-'],
              ['schema', `about ${one.tokens} tokens`],
              ...(one.formerly.length > 0 ? [['formerly', one.formerly.join(', ')] as [string, string]] : []),
            ]),
            '',
            ...tools,
            '',
            keys,
          ].join('\n'),
        );
      }),
    );
}

function connectCommand(endpoint: Command): void {
  endpoint
    .command('connect <name>')
    .description('prints settings for each kind of client')
    .option('--for <key>', 'access key to fill in; otherwise a placeholder')
    .action(
      withService(async ({ client, print }, [name], options) => {
        const found = await client.connectEndpoint({ name });
        const key = options.for?.trim().replace(/^Bearer /i, '');
        const settings = found.settings.map((one) => ({
          ...one,
          text: key ? one.text.replaceAll(KEY_GAP, key) : one.text,
        }));
        const gap = key
          ? ''
          : `\n${pc.dim(`Fill in a key: pindro endpoint connect ${name} --for "$(pindro key issue NAME --endpoint ${name})"`)}`;
        print({ settings }, () => `${showSettings(settings)}${gap}`);
      }),
    );
}

function selectToolCommand(endpoint: Command): void {
  endpoint
    .command('select-tool <name> <prompt>')
    .description('shows which tool a model would call for a prompt, and with what arguments; nothing is called')
    .option('--model <name>', 'model connection; optional if there is only one')
    .action(
      withService(async ({ client, print, progress }, [name, message], options) => {
        const model = options.model ?? (await onlyModel(client));
        progress(`asking ${model} …`);
        const chosen = await client.selectTool({ name, body: { message, model } });
        print(chosen, () =>
          [
            ...chosen.calls.map((call) => `${pc.green('→')} ${pc.bold(call.tool)} ${JSON.stringify(call.arguments)}`),
            ...(chosen.calls.length === 0 ? [`${pc.yellow('!')} The model calls no tool.`] : []),
            ...(chosen.text ? [`  ${chosen.text}`] : []),
            pc.dim(`pindro run show ${chosen.run}`),
          ].join('\n'),
        );
      }),
    );
}

function createCommand(endpoint: Command): void {
  endpoint
    .command('create <name>')
    .description('creates an empty endpoint')
    .option('--title <title>', 'title for people')
    .option('--instructions <text>', 'instructions for the connecting model')
    .option('--open', 'answers without a key; only on this machine, unless the service allows others', false)
    .action(
      withService(async ({ client, print }, [name], options) => {
        const made = await client.createEndpoint({
          body: {
            document: {
              format: 'pindro/endpoint@1',
              name,
              title: String(options.title ?? ''),
              instructions: String(options.instructions ?? ''),
              access: options.open ? 'open' : 'keys',
            },
          },
        });
        print(made, `${pc.green('✓')} Created ${made.name} at ${pc.bold(made.url)}`);
      }),
    );
}

function updateCommand(endpoint: Command): void {
  endpoint
    .command('update <name>')
    .description('changes its description and who may use it')
    .option('--title <title>', 'title for people')
    .option('--description <text>', 'description for people')
    .option('--instructions <text>', 'instructions for the connecting model')
    .addOption(new Option('--access <who>', 'who may use it: holders of a key, or anybody').choices(['keys', 'open']))
    .option('--icon <address>', 'icon: an https address or a data URI; "" removes it')
    .option('--body-limit <size>', 'maximum size of a client message, such as 4MiB')
    .action(
      withService(async ({ client, print }, [name], options) => {
        const { title, description, instructions, access, icon, bodyLimit } = options;
        const change = { title, description, instructions, access: access as 'keys' | undefined, icon, bodyLimit };
        const told = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
        const now = await client.updateEndpoint({ name, body: told });
        print(now, `${pc.green('✓')} Updated ${now.name}`);
      }),
    );
}

function enableOrDisableCommand(endpoint: Command): void {
  for (const [verb, on] of [
    ['enable', true],
    ['disable', false],
  ] as const)
    endpoint
      .command(`${verb} <name>`)
      .description(on ? 'enables it' : 'disables it: its clients are notified, and nothing is lost')
      .action(
        withService(async ({ client, print }, [name]) => {
          const now = await client.updateEndpoint({ name, body: { on } });
          print(now, `${pc.green('✓')} ${now.name} is ${verb}d${now.offSince ? ` since ${moment(now.offSince)}` : ''}`);
        }),
      );
}

function addToolCommand(endpoint: Command): void {
  endpoint
    .command('add-tool <endpoint> [tool]')
    .description('adds a flow, a tool of a server or a whole server; TOOL is the name for clients')
    .option('--flow <name>', 'flow to add as the tool')
    .option('--server <name>', 'or: tool server')
    .option('--server-tool <name>', 'tool of the server; by default all its present and future tools')
    .action(
      withService(async ({ client, print }, [endpoint, tool], options) => {
        const { flow, server, serverTool } = options;
        const source: Record<string, string> =
          flow === undefined ? { server: server ?? '', tool: serverTool ?? '' } : { flow };
        const whole = server !== undefined && serverTool === undefined;
        const name = tool || (flow ?? serverTool ?? '').replaceAll('-', '_');
        const body = whole ? { servers: { [server]: {} } } : { tools: { [name]: source } };
        const now = await client.addTools({ name: endpoint, body });
        const hindered = now.toolList
          .filter((one) => one.trouble && (whole || one.name === name))
          .map((one) => `\n  ${pc.yellow('!')} ${one.name}: ${one.trouble}`);
        const said = `${pc.green('✓')} ${now.name} has ${now.tools} tool${now.tools === 1 ? '' : 's'}`;
        print(now, `${said}${hindered.join('')}`);
      }),
    );
}

function describeToolCommand(endpoint: Command): void {
  endpoint
    .command('describe-tool <endpoint> <tool>')
    .description('changes how a tool is presented, without changing the flow')
    .option('--name <name>', 'name for clients')
    .option('--title <text>', 'title for people; "" resets it')
    .option('--description <text>', 'description for the model; "" resets it')
    .option('--set <argument=value>', 'value that the model never sees; repeatable', readArguments.set, {})
    .option('--describe <argument=description>', 'description of an argument for the model', readArguments.ask, {})
    .option('--omit <argument>', 'neither offered nor sent', readArguments.omit, {})
    .option('--icon <address>', 'icon: an https address or a data URI; "" removes it')
    .addOption(
      new Option('--credential <whose>', 'for a tool of a server: whose credential is sent').choices([
        'workspace',
        'caller',
      ]),
    )
    .action(
      withService(async ({ client, print }, [endpoint, tool], options) => {
        const text = (value: unknown) => (value === '' ? null : String(value));
        const asked = Object.entries(options.set as Record<string, { set: unknown }>).find(
          ([, one]) => one.set === '?',
        );
        if (asked) {
          const found = (await client.getEndpoint({ name: endpoint })).toolList.find((one) => one.name === tool);
          const [first = '', ...rest] = (found?.target ?? '').split('.');
          const flow = /^flow (.+)$/.exec(found?.target ?? '')?.[1];
          const wanted = flow ? { flow } : { server: first, tool: rest.join('.') };
          const shown = await showValues(client, { ...wanted, argument: asked[0], arguments: {} });
          return print(shown.value, shown.text);
        }
        const rules = { ...(options.set as object), ...(options.describe as object), ...(options.omit as object) };
        const now = await client.describeTool({
          name: endpoint,
          tool,
          body: {
            ...(options.name !== undefined && { name: String(options.name) }),
            ...(options.title !== undefined && { title: text(options.title) }),
            ...(options.description !== undefined && { description: text(options.description) }),
            ...(options.icon !== undefined && { icon: text(options.icon) }),
            ...(options.credential !== undefined && { credential: options.credential as 'caller' }),
            ...(Object.keys(rules).length > 0 && { arguments: rules }),
          },
        });
        print(now, `${pc.green('✓')} Clients that have the tool are notified`);
      }),
    );
}

function removeToolCommand(endpoint: Command): void {
  endpoint
    .command('remove-tool <endpoint> <tool>')
    .description('removes a tool, or a whole server of that name')
    .action(
      withService(async ({ client, print }, [endpoint, tool]) => {
        const now = await client.removeTool({ name: endpoint, tool });
        print(now, `${pc.green('✓')} ${now.name} has ${now.tools} tool${now.tools === 1 ? '' : 's'}`);
      }),
    );
}

function reviewCommand(endpoint: Command): void {
  endpoint
    .command('review <endpoint>')
    .description('reviews its tools from the perspective of the model')
    .option('--apply [suggestions...]', 'applies all suggestions, or only the named ones')
    .option('--sent', 'prints the tool list exactly as a client receives it')
    .action(
      withService(async ({ client, print }, [name], options: { apply?: true | string[]; sent?: true }) => {
        if (options.apply === undefined) {
          const review = await client.reviewEndpoint({ name });
          print(review, () => (options.sent ? JSON.stringify(review.sent, null, 2) : showReview(review)));
          return;
        }
        const body = options.apply === true ? {} : { suggestions: options.apply };
        const review = await client.applyReview({ name, body });
        const applied = `${pc.green('✓')} ${review.applied.length} applied${review.applied.length > 0 ? `: ${review.applied.join(', ')}` : ''}`;
        print(review, () => `${applied}\n\n${showReview(review)}`);
      }),
    );
}

function testCommand(endpoint: Command): void {
  endpoint
    .command('test <endpoint>')
    .description('connects like an external client and reports what fails')
    .option('--with-key <key>', 'the key in the client settings; by default a temporary key')
    .option('--address <url>', 'the address in the client settings')
    .action(
      withService(async ({ client, print, progress }, [name], options: { withKey?: string; address?: string }) => {
        progress('Connecting …');
        const found = await client.testEndpoint({
          name,
          body: {
            ...(options.withKey !== undefined && { key: options.withKey }),
            ...(options.address !== undefined && { url: options.address }),
          },
        });
        print(found, () => showSelfTest(found));
        if (!found.ok) throw new QuietFailure();
      }),
    );
}

function usageCommand(endpoint: Command): void {
  endpoint
    .command('usage <endpoint>')
    .description('shows usage and outcomes by client')
    .option('--days <number>', 'number of days', wholeNumber, 7)
    .action(
      withService(async ({ client, print }, [name], options: { days?: number }) => {
        const usage = await client.endpointUsage({ name, query: { days: options.days ?? 7 } });
        print(usage, () => showUsage(usage));
      }),
    );
}

function sessionsCommand(endpoint: Command): void {
  endpoint
    .command('sessions <endpoint>')
    .description('lists open sessions and recent activity')
    .option('--end <id>', 'ends a session')
    .action(
      withService(async ({ client, print }, [name], options: { end?: string }) => {
        if (options.end !== undefined) {
          print(await client.endSession({ id: options.end }), `${pc.green('✓')} The session has ended`);
          return;
        }
        const { items, happened } = await client.endpointSessions({ name });
        const open = table(
          ['ID', 'CLIENT', 'KEY', 'CALLER', 'OVER', 'CALLS', 'LAST ACTIVE'],
          items.map((one) => [
            one.id,
            `${one.client} ${one.version}`.trim(),
            one.key,
            one.caller,
            one.transport,
            String(one.calls),
            one.listening ? `connected, ${moment(one.lastUsed)}` : moment(one.lastUsed),
          ]),
        );
        const lately = happened.map(
          ({ at, text, run }) => `  ${pc.dim(moment(at))}  ${text}${run ? pc.dim(`  ${run}`) : ''}`,
        );
        print({ items, happened }, () =>
          [
            items.length > 0 ? open : 'No client has an open session.',
            '',
            lately.length > 0 ? `Lately\n${lately.join('\n')}` : 'No activity since the service started.',
          ].join('\n'),
        );
      }),
    );
}
