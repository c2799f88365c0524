import type { Command } from '@commander-js/extra-typings';
import { RESOURCE, SPEAKS_WORDS, WATCH_WORDS } from '@pindro/contract';
import {
  asRules,
  describeType,
  humanDuration,
  type Json,
  type JsonSchema,
  supplierOf,
  supplierWords,
} from '@pindro/core/browser';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readObject } from '../input/json.js';
import { collectText, readTexts } from '../input/pairs.js';
import { readArguments } from '../input/rules.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, state, table } from '../output/table.js';
import { askedFor, showValues } from '../output/values.js';
import { type WholeVerbs, wholeVerbs } from './common-verbs.js';
import { serverAttach, serverFind } from './server-attach.js';
import { addLimitOptions, type LimitOptions, limitsOf, networkOf, programOf } from './server-change.js';
import { serverWatch } from './server-watch.js';

export function serverCommands(program: Command): void {
  const server = program
    .command('server')
    .description(
      'external tool servers: attach, list, tools, call, log, changes, accept, reject, refresh, update, rename, copy, remove',
    );

  serverAttach(server);
  serverFind(server);
  serverWatch(server);

  listCommand(server);
  toolsCommand(server);
  callCommand(server);
  enableOrDisableCommand(server);
  testCommand(server);
  refreshCommand(server);

  const change = server
    .command('update <name>')
    .description('changes its address, credentials and argument rules; saved once it responds')
    .option('--address <url>', 'its address')
    .option('--credential <name>', 'credential to send; "" for none')
    .option('--secret', 'prompts for a new bearer key (or reads it from standard input)')
    .option(
      '--set <argument=value>',
      'for every tool with this argument: a value the model never sees',
      readArguments.set,
      {},
    )
    .option(
      '--describe <argument=description>',
      'for every tool with this argument: its description for the model',
      readArguments.ask,
      {},
    )
    .option('--omit <argument>', 'for every tool with this argument: neither offered nor sent', readArguments.omit, {})
    .option('--no-rules', 'removes all argument rules')
    .option('--skip-test', 'even if it does not respond');
  addLimitOptions(change);
  change.action(
    withService(async ({ client, print, progress }, [name], options) => {
      const limits = options as LimitOptions;
      const secret = options.secret ? await readSecret(`Bearer key for ${name}: `) : undefined;
      const told = { ...(options.set as object), ...(options.describe as object), ...(options.omit as object) };
      const clear = options.rules === false;
      const before = clear || Object.keys(told).length === 0 ? {} : (await client.getServer({ name })).rules;
      progress(`asking ${name} …`);
      const now = await client.updateServer({
        name,
        body: {
          skipTest: options.skipTest === true,
          ...(options.address !== undefined && { url: String(options.address) }),
          ...(await programOf(client, name, limits)),
          ...(await limitsOf(client, name, limits)),
          ...(await networkOf(client, name, limits)),
          ...(options.credential !== undefined && { credential: String(options.credential) || null }),
          ...(secret !== undefined && { secret }),
          ...((clear || Object.keys(told).length > 0) && { rules: { ...before, ...told } }),
        },
      });
      print(
        now,
        `${pc.green('✓')} ${now.name} is ${now.program ? '' : 'at '}${now.where}${now.credential ? ` with ${now.credential}` : ''}`,
      );
    }),
  );

  const verbs: WholeVerbs = {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getServer({ name: name! });
      const rules = Object.entries(one.rules).map(([argument, rule]) => `${argument}: ${JSON.stringify(rule)}`);
      const text = facts([
        ['server', `${one.name}  ${pc.dim(one.about)}`],
        [one.program ? 'program' : 'address', one.where],
        ...((one.program?.cwd ? [['works in', one.program.cwd]] : []) as [string, string][]),
        ['transport', SPEAKS_WORDS[one.speaks]],
        ['state', `${state(one.state)}${one.trouble ? `  ${one.trouble}` : ''}`],
        ['credential', [one.credential, ...one.also].filter(Boolean).join(', ') || '-'],
        ['last response', moment(one.seenAt)],
        [
          'limits',
          Object.entries(one.limits)
            .map(([limit, value]) => `${limit} ${value}`)
            .join(', ') || '-',
        ],
        ['watch', WATCH_WORDS[one.watch]],
        ['tools', one.toolList.map((tool) => tool.name).join(', ') || '-'],
        ...(one.heldTools.length > 0
          ? ([['on hold', one.heldTools.map(({ name: tool, why }) => `${tool} (${why})`).join('; ')]] as [
              string,
              string,
            ][])
          : []),
        ['rules', rules.join('; ') || '-'],
        ['used by', one.usedBy.join(', ') || '-'],
      ]);
      return { value: one, text };
    },
  };
  wholeVerbs(server, RESOURCE.server, verbs);
}

function listCommand(server: Command): void {
  server
    .command('list [words]')
    .description('lists attached tool servers, optionally filtered by words in their name or address')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listServers({ query: search ? { search } : {} });
        const rows = items.map((one) => [
          one.name,
          state(one.state),
          one.held > 0 ? `${one.tools} (${one.held} on hold)` : String(one.tools),
          moment(one.seenAt),
          one.where,
        ]);
        const troubles = items
          .filter((one) => one.trouble)
          .map((one) => `\n${pc.red('✗')} ${one.trouble}\n  ${one.fix ?? ''}`);
        print({ items }, () =>
          items.length > 0
            ? table(['SERVER', 'STATE', 'TOOLS', 'LAST SEEN', 'WHERE'], rows) + troubles.join('')
            : search
              ? 'No matching tool servers.'
              : 'No tool servers yet. Attach one with "pindro server attach NAME ADDRESS".',
        );
      }),
    );
}

function toolsCommand(server: Command): void {
  server
    .command('tools <name>')
    .description('lists the tools of a server')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.getServer({ name });
        const tools = one.toolList.map((tool) => {
          const properties = Object.entries(
            (tool.inputSchema.properties ?? {}) as Record<
              string,
              { type?: string; format?: string; enum?: string[]; description?: string }
            >,
          );
          const required = (tool.inputSchema.required ?? []) as string[];
          const args = properties.map(([key, schema]) => {
            const supplier = supplierOf(key, asRules(one.rules as Json));
            const notes = [
              describeType(schema as JsonSchema),
              supplier.how === 'asked' ? '' : `supplied by a rule: ${supplierWords(supplier, null)}`,
              schema.description ?? '',
            ];
            return `    ${key}${required.includes(key) ? '' : '?'}  ${pc.dim(notes.filter(Boolean).join('  '))}`;
          });
          return [`  ${pc.bold(tool.name)}  ${tool.description}`, ...args].join('\n');
        });
        print(one, () =>
          [
            facts([
              ['server', `${one.name}  ${pc.dim(one.about)}`],
              [one.program ? 'program' : 'address', one.where],
              ['transport', SPEAKS_WORDS[one.speaks]],
              ['state', state(one.state)],
            ]),
            '',
            ...tools,
          ].join('\n'),
        );
      }),
    );
}

function callCommand(server: Command): void {
  server
    .command('call <name> <tool> [arguments]')
    .description('calls one tool')
    .option('-s, --set <name=value>', 'one argument; repeatable; NAME=? lists its values', collectText, {})
    .action(
      withService(async ({ client, print, progress }, [name, tool, given], options) => {
        const texts = options.set as Record<string, string>;
        const [asked] = askedFor(texts);
        if (asked !== undefined) {
          const { [asked]: _, ...rest } = texts;
          const shown = await showValues(client, { server: name, tool, argument: asked, arguments: rest });
          return print(shown.value, shown.text);
        }
        const tools = Object.keys(texts).length > 0 ? (await client.getServer({ name })).toolList : [];
        const schema = tools.find((one) => one.name === tool)?.inputSchema ?? {};
        progress(`calling ${tool} of ${name} …`);
        const result = await client.callServerTool({
          name,
          tool,
          body: { arguments: { ...readObject(given || '{}'), ...readTexts(texts, schema as JsonSchema) } },
        });
        const { supplied } = result;
        const byRules = supplied.length > 0 ? `, with ${supplied.join(', ')} from the argument rules of ${name}` : '';
        print(
          result,
          () =>
            `${result.isError ? `${pc.red('✗')} ${result.text}` : result.data === null ? result.text : JSON.stringify(result.data, null, 2)}\n${pc.dim(`${result.milliseconds} ms${byRules}`)}`,
        );
        if (result.isError) throw new QuietFailure();
      }),
    );
}

function enableOrDisableCommand(server: Command): void {
  for (const [verb, on] of [
    ['enable', true],
    ['disable', false],
  ] as const)
    server
      .command(`${verb} <name>`)
      .description(on ? 'enables it' : 'disables it: it is neither contacted nor called, and keeps its settings')
      .action(
        withService(async ({ client, print }, [name]) => {
          const now = await client.updateServer({ name, body: { on, skipTest: true } });
          print(now, `${pc.green('✓')} ${now.name} is ${verb}d`);
        }),
      );
}

function testCommand(server: Command): void {
  server
    .command('test <name>')
    .description('connects, lists the tools, and reports what fails')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`connecting to ${name} …`);
        const start = performance.now();
        const one = await client.refreshServer({ name });
        const took = humanDuration(performance.now() - start);
        print(one, `${pc.green('✓')} ${name} responds with ${one.tools} tools in ${took}`);
      }),
    );
}

function refreshCommand(server: Command): void {
  server
    .command('refresh <name>')
    .description('refreshes the tool list')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.refreshServer({ name });
        const changes = [...one.added.map((tool) => `+ ${tool}`), ...one.removed.map((tool) => `- ${tool}`)];
        print(
          one,
          `${pc.green('✓')} ${name} responds with ${one.tools} tools${changes.length > 0 ? `\n${changes.join('\n')}` : ', no changes'}`,
        );
      }),
    );
}
