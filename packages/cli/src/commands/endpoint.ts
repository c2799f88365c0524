import { type Client, KEY_GAP } from '@pindro/contract';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readArguments } from '../input/rules.js';
import { showSettings } from '../output/client-settings.js';
import { showReview, showSelfTest, showUsage } from '../output/review.js';
import { facts, moment, table } from '../output/table.js';
import { showValues } from '../output/values.js';
import { usage } from '../usage.js';
import { wholeNumber } from './table.js';
import { wholeVerbs } from './whole.js';

/** The name of the one model connection. @throws a usage error where there is none, or are several */
async function onlyModel(client: Client): Promise<string> {
  const { items } = await client.listModels();
  if (items.length === 1) return items[0]!.name;
  throw items.length === 0
    ? usage('There is no model connection yet', 'Make one with "pindro model add NAME --base URL --model MODEL".')
    : usage(
        `There are ${items.length} model connections`,
        `Choose one with --model: ${items.map((one) => one.name).join(', ')}.`,
      );
}

export function endpointCommands(program: Command): void {
  const endpoint = program
    .command('endpoint')
    .description('MCP endpoints: make them, word and review their tools, connect clients, see who uses them');

  endpoint
    .command('list [words]')
    .description('all endpoints, or those with these words in their name or description')
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
              ? 'No endpoint fits.'
              : 'No endpoint yet. "pindro flow expose FLOW" makes one.',
        );
      }),
    );

  endpoint
    .command('show <name>')
    .description('one endpoint with its tools and keys')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.getEndpoint({ name: name! });
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
              ['tells', one.instructions || '-'],
              ['reads as', `about ${one.tokens} tokens`],
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

  endpoint
    .command('connect <name>')
    .description('settings for each kind of client')
    .option('--for <key>', 'the access key to fill in; its place is marked if left out')
    .action(
      withService(async ({ client, print }, [name], options: Record<string, string>) => {
        const found = await client.connectEndpoint({ name: name! });
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

  endpoint
    .command('choose <name> <sentence>')
    .description('shows which tool a model would call for a sentence, and with what; nothing is called')
    .option('--model <name>', 'the model connection; may be left out where there is one')
    .action(
      withService(async ({ client, print, progress }, [name, message], options: Record<string, string>) => {
        const model = options.model ?? (await onlyModel(client));
        progress(`asking ${model} …`);
        const chosen = await client.chooseTool({ name: name!, body: { message: message!, model } });
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

  endpoint
    .command('make <name>')
    .description('makes an endpoint with nothing on it yet')
    .option('--title <title>', 'for people')
    .option('--instructions <text>', 'what the connecting model is told first')
    .option('--open', 'answers without a key; only on this machine, unless the service was told otherwise', false)
    .action(
      withService(async ({ client, print }, [name], options: Record<string, unknown>) => {
        const made = await client.putEndpoint({
          body: {
            document: {
              format: 'pindro/endpoint@1',
              name: name!,
              title: String(options.title ?? ''),
              instructions: String(options.instructions ?? ''),
              access: options.open ? 'open' : 'keys',
            },
          },
        });
        print(made, `${pc.green('✓')} ${made.name} answers at ${pc.bold(made.url)}`);
      }),
    );

  endpoint
    .command('change <name>')
    .description('changes what it says of itself and who may use it')
    .option('--title <title>', 'for people')
    .option('--description <text>', 'for the people who choose it')
    .option('--instructions <text>', 'what the connecting model is told first')
    .addOption(new Option('--access <who>', 'who holds a key for it, or anybody').choices(['keys', 'open']))
    .option('--icon <address>', 'a picture: an https address or a data URI; "" takes it away')
    .option('--body-limit <size>', 'the largest message taken from a client, such as 4MiB')
    .action(
      withService(async ({ client, print }, [name], options: Record<string, string>) => {
        const { title, description, instructions, access, icon, bodyLimit } = options;
        const change = { title, description, instructions, access: access as 'keys' | undefined, icon, bodyLimit };
        const told = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
        const now = await client.changeEndpoint({ name: name!, body: told });
        print(now, `${pc.green('✓')} ${now.name} is changed`);
      }),
    );
  for (const [verb, on] of [
    ['on', true],
    ['off', false],
  ] as const)
    endpoint
      .command(`${verb} <name>`)
      .description(on ? 'switches it on again' : 'switches it off: its clients are told so, and nothing of it is lost')
      .action(
        withService(async ({ client, print }, [name]) => {
          const now = await client.changeEndpoint({ name: name!, body: { on } });
          print(now, `${pc.green('✓')} ${now.name} is ${verb}${now.offSince ? ` since ${moment(now.offSince)}` : ''}`);
        }),
      );

  wholeVerbs(endpoint, 'endpoint', {
    named: '<name>',
    rename: async (client, [name], to) => {
      const { items } = await client.endpointUses({ name: name! });
      const renamed = await client.renameEndpoint({ name: name!, body: { to } });
      return { ...renamed, changed: items };
    },
    copy: (client, [name], to) => client.copyEndpoint({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.removeEndpoint({ name: name!, query }),
    uses: (client, [name]) => client.endpointUses({ name: name! }),
  });

  endpoint
    .command('put <endpoint> [tool]')
    .description('puts a flow, a tool of a server or a whole server on it; TOOL is what clients call it')
    .option('--flow <name>', 'the flow that the tool is')
    .option('--server <name>', 'or: the tool server')
    .option('--server-tool <name>', 'its tool; without one, everything the server has now and adds later')
    .action(
      withService(async ({ client, print }, [endpoint, tool], options: Record<string, string>) => {
        const { flow, server, serverTool } = options;
        const source: Record<string, string> =
          flow === undefined ? { server: server ?? '', tool: serverTool ?? '' } : { flow };
        const whole = server !== undefined && serverTool === undefined;
        const name = tool || (flow ?? serverTool ?? '').replaceAll('-', '_');
        const body = whole ? { servers: { [server]: {} } } : { tools: { [name]: source } };
        const now = await client.putTools({ name: endpoint!, body });
        const hindered = now.toolList
          .filter((one) => one.trouble && (whole || one.name === name))
          .map((one) => `\n  ${pc.yellow('!')} ${one.name}: ${one.trouble}`);
        const said = `${pc.green('✓')} ${now.name} has ${now.tools} tool${now.tools === 1 ? '' : 's'}`;
        print(now, `${said}${hindered.join('')}`);
      }),
    );

  endpoint
    .command('word <endpoint> <tool>')
    .description('changes how a tool reads, without touching the flow')
    .option('--name <name>', 'what clients call it')
    .option('--title <text>', 'for people; "" takes a change back')
    .option('--description <text>', 'what the model reads; "" takes a change back')
    .option(
      '--set <argument=value>',
      'a value the model never sees; may be given more than once',
      readArguments.set,
      {},
    )
    .option('--ask <argument=description>', 'what the model reads of an argument', readArguments.ask, {})
    .option('--omit <argument>', 'neither offered nor sent', readArguments.omit, {})
    .option('--icon <address>', 'a picture: an https address or a data URI; "" takes it away')
    .addOption(
      new Option('--credential <whose>', 'for a tool of a server: whose credential goes along').choices([
        'workspace',
        'caller',
      ]),
    )
    .action(
      withService(async ({ client, print }, [endpoint, tool], options: Record<string, unknown>) => {
        const text = (value: unknown) => (value === '' ? null : String(value));
        const asked = Object.entries(options.set as Record<string, { set: unknown }>).find(
          ([, one]) => one.set === '?',
        );
        if (asked) {
          const found = (await client.getEndpoint({ name: endpoint! })).toolList.find((one) => one.name === tool);
          const [first = '', ...rest] = (found?.target ?? '').split('.');
          const flow = /^flow (.+)$/.exec(found?.target ?? '')?.[1];
          const wanted = flow ? { flow } : { server: first, tool: rest.join('.') };
          const shown = await showValues(client, { ...wanted, argument: asked[0], arguments: {} });
          return print(shown.value, shown.text);
        }
        const rules = { ...(options.set as object), ...(options.ask as object), ...(options.omit as object) };
        const now = await client.wordTool({
          name: endpoint!,
          tool: tool!,
          body: {
            ...(options.name !== undefined && { name: String(options.name) }),
            ...(options.title !== undefined && { title: text(options.title) }),
            ...(options.description !== undefined && { description: text(options.description) }),
            ...(options.icon !== undefined && { icon: text(options.icon) }),
            ...(options.credential !== undefined && { credential: options.credential as 'caller' }),
            ...(Object.keys(rules).length > 0 && { arguments: rules }),
          },
        });
        print(now, `${pc.green('✓')} Clients that have it on their list are told`);
      }),
    );

  endpoint
    .command('take <endpoint> <tool>')
    .description('takes a tool off it, or a whole server of that name')
    .action(
      withService(async ({ client, print }, [endpoint, tool]) => {
        const now = await client.takeTool({ name: endpoint!, tool: tool! });
        print(now, `${pc.green('✓')} ${now.name} has ${now.tools} tool${now.tools === 1 ? '' : 's'}`);
      }),
    );

  endpoint
    .command('review <endpoint>')
    .description('says what is wrong with its tools for the model that reads them')
    .option('--apply [remarks...]', 'applies what is proposed: all that can be, or the remarks named')
    .option('--sent', 'prints the tool list exactly as a client receives it')
    .action(
      withService(async ({ client, print }, [name], options: { apply?: true | string[]; sent?: true }) => {
        if (options.apply === undefined) {
          const review = await client.reviewEndpoint({ name: name! });
          print(review, () => (options.sent ? JSON.stringify(review.sent, null, 2) : showReview(review)));
          return;
        }
        const body = options.apply === true ? {} : { remarks: options.apply };
        const review = await client.applyRemarks({ name: name!, body });
        const applied = `${pc.green('✓')} ${review.applied.length} applied${review.applied.length > 0 ? `: ${review.applied.join(', ')}` : ''}`;
        print(review, () => `${applied}\n\n${showReview(review)}`);
      }),
    );

  endpoint
    .command('test <endpoint>')
    .description('connects as a stranger would and says which part fails')
    .option('--with-key <key>', 'the key as it stands in the client settings; one is lent for the test if left out')
    .option('--address <url>', 'the address as it stands in the client settings')
    .action(
      withService(async ({ client, print, progress }, [name], options: { withKey?: string; address?: string }) => {
        progress('Connecting …');
        const found = await client.testEndpoint({
          name: name!,
          body: {
            ...(options.withKey !== undefined && { key: options.withKey }),
            ...(options.address !== undefined && { url: options.address }),
          },
        });
        print(found, () => showSelfTest(found));
        if (!found.well) throw new QuietFailure();
      }),
    );

  endpoint
    .command('usage <endpoint>')
    .description('who used what, and how it went')
    .option('--days <number>', 'of how many days', wholeNumber, 7)
    .action(
      withService(async ({ client, print }, [name], options: { days?: number }) => {
        const usage = await client.endpointUsage({ name: name!, query: { days: options.days ?? 7 } });
        print(usage, () => showUsage(usage));
      }),
    );

  endpoint
    .command('sessions <endpoint>')
    .description('sessions that clients have open, and what happened lately')
    .option('--end <id>', 'ends one of them')
    .action(
      withService(async ({ client, print }, [name], options: { end?: string }) => {
        if (options.end !== undefined) {
          print(await client.endSession({ id: options.end }), `${pc.green('✓')} The session has ended`);
          return;
        }
        const { items, happened } = await client.endpointSessions({ name: name! });
        const open = table(
          ['ID', 'CLIENT', 'KEY', 'CALLER', 'OVER', 'CALLS', 'LAST HEARD'],
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
            items.length > 0 ? open : 'No client has a session open.',
            '',
            lately.length > 0 ? `Lately\n${lately.join('\n')}` : 'Nothing has happened yet since the service started.',
          ].join('\n'),
        );
      }),
    );
}
