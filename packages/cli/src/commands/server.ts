import { SPEAKS_WORDS, WATCH_WORDS } from '@pindro/contract';
import {
  asRules,
  describeType,
  humanDuration,
  type Json,
  type JsonSchema,
  supplierOf,
  supplierWords,
} from '@pindro/core/browser';
import type { Command } from 'commander';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readObject } from '../input/json.js';
import { collectText, readTexts } from '../input/pairs.js';
import { readArguments } from '../input/rules.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, state, table } from '../output/table.js';
import { askedFor, showValues } from '../output/values.js';
import { serverAttach, serverFind } from './server-attach.js';
import { limitOptions, limitsOf, networkOf, programOf } from './server-change.js';
import { serverWatch } from './server-watch.js';
import { type WholeVerbs, wholeVerbs } from './whole.js';

export function serverCommands(program: Command): void {
  const server = program
    .command('server')
    .description(
      "other people's tool servers: attach, list, tools, call, log, changes, accept, refuse, refresh, change, rename, copy, remove",
    );

  serverAttach(server);
  serverFind(server);
  serverWatch(server);

  server
    .command('list [words]')
    .description('all attached tool servers, or those with these words in their name or address')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listServers({ query: search ? { search } : {} });
        const rows = items.map((one) => [
          one.name,
          state(one.state),
          one.held > 0 ? `${one.tools} (${one.held} held back)` : String(one.tools),
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
              ? 'No tool server fits.'
              : 'No tool server yet. Attach one with "pindro server attach NAME ADDRESS".',
        );
      }),
    );

  server
    .command('tools <name>')
    .description('the tools of a server')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.getServer({ name: name! });
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
              ['speaks', SPEAKS_WORDS[one.speaks]],
              ['state', state(one.state)],
            ]),
            '',
            ...tools,
          ].join('\n'),
        );
      }),
    );

  server
    .command('call <name> <tool> [arguments]')
    .description('calls one tool')
    .option(
      '-s, --set <name=value>',
      'one argument; may be given more than once; NAME=? lists its values',
      collectText,
      {},
    )
    .action(
      withService(async ({ client, print, progress }, [name, tool, given], options: Record<string, unknown>) => {
        const texts = options.set as Record<string, string>;
        const [asked] = askedFor(texts);
        if (asked !== undefined) {
          const { [asked]: _, ...rest } = texts;
          const shown = await showValues(client, { server: name!, tool: tool!, argument: asked, arguments: rest });
          return print(shown.value, shown.text);
        }
        const tools = Object.keys(texts).length > 0 ? (await client.getServer({ name: name! })).toolList : [];
        const schema = tools.find((one) => one.name === tool)?.inputSchema ?? {};
        progress(`calling ${tool} of ${name} …`);
        const result = await client.callServerTool({
          name: name!,
          tool: tool!,
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

  for (const [verb, on] of [
    ['on', true],
    ['off', false],
  ] as const)
    server
      .command(`${verb} <name>`)
      .description(
        on ? 'switches it on again' : 'switches it off: it is neither asked nor called, and keeps its settings',
      )
      .action(
        withService(async ({ client, print }, [name]) => {
          const now = await client.changeServer({ name: name!, body: { on, untested: true } });
          print(now, `${pc.green('✓')} ${now.name} is ${verb}`);
        }),
      );

  server
    .command('test <name>')
    .description('connects, reads the tool list, and reports what fails')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`connecting to ${name} …`);
        const start = performance.now();
        const one = await client.refreshServer({ name: name! });
        const took = humanDuration(performance.now() - start);
        print(one, `${pc.green('✓')} ${name} answers with ${one.tools} tools in ${took}`);
      }),
    );

  server
    .command('refresh <name>')
    .description('reads the tool list anew')
    .action(
      withService(async ({ client, print }, [name]) => {
        const one = await client.refreshServer({ name: name! });
        const changes = [...one.added.map((tool) => `+ ${tool}`), ...one.removed.map((tool) => `- ${tool}`)];
        print(
          one,
          `${pc.green('✓')} ${name} answers with ${one.tools} tools${changes.length > 0 ? `\n${changes.join('\n')}` : ', none new'}`,
        );
      }),
    );

  const change = server
    .command('change <name>')
    .description('changes where it is, what goes along and who supplies arguments; kept once it answers')
    .option('--address <url>', 'where it is')
    .option('--credential <name>', 'the credential that goes along; "" for none')
    .option('--secret', 'asks for a new bearer key (or reads it from standard input)')
    .option('--set <argument=value>', 'for every tool that has it: a value the model never sees', readArguments.set, {})
    .option('--ask <argument=description>', 'for every tool that has it: what the model reads', readArguments.ask, {})
    .option('--omit <argument>', 'for every tool that has it: neither offered nor sent', readArguments.omit, {})
    .option('--no-rules', 'takes all rules for arguments away')
    .option('--untested', 'also when it does not answer now');
  limitOptions(change).action(
    withService(async ({ client, print, progress }, [name], options: Record<string, unknown>) => {
      const secret = options.secret ? await readSecret(`Bearer key for ${name}: `) : undefined;
      const told = { ...(options.set as object), ...(options.ask as object), ...(options.omit as object) };
      const clear = options.rules === false;
      const before = clear || Object.keys(told).length === 0 ? {} : (await client.getServer({ name: name! })).rules;
      progress(`asking ${name} …`);
      const now = await client.changeServer({
        name: name!,
        body: {
          untested: options.untested === true,
          ...(options.address !== undefined && { url: String(options.address) }),
          ...(await programOf(client, name!, options)),
          ...(await limitsOf(client, name!, options)),
          ...(await networkOf(client, name!, options)),
          ...(options.credential !== undefined && { credential: String(options.credential) || null }),
          ...(secret !== undefined && { secret }),
          ...((clear || Object.keys(told).length > 0) && { rules: { ...before, ...told } as never }),
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
        ['speaks', SPEAKS_WORDS[one.speaks]],
        ['state', `${state(one.state)}${one.trouble ? `  ${one.trouble}` : ''}`],
        ['credential', [one.credential, ...one.also].filter(Boolean).join(', ') || '-'],
        ['last answered', moment(one.seenAt)],
        [
          'limits',
          Object.entries(one.limits)
            .map(([limit, value]) => `${limit} ${value}`)
            .join(', ') || '-',
        ],
        ['watch', WATCH_WORDS[one.watch]],
        ['tools', one.toolList.map((tool) => tool.name).join(', ') || '-'],
        ...(one.heldTools.length > 0
          ? ([['held back', one.heldTools.map(({ name: tool, why }) => `${tool} (${why})`).join('; ')]] as [
              string,
              string,
            ][])
          : []),
        ['rules', rules.join('; ') || '-'],
        ['used by', one.usedBy.join(', ') || '-'],
      ]);
      return { value: one, text };
    },
    rename: (client, [name], to) => client.renameServer({ name: name!, body: { to } }),
    copy: (client, [name], to) => client.copyServer({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.detachServer({ name: name!, query }),
    uses: (client, [name]) => client.serverUses({ name: name! }),
  };
  wholeVerbs(server, 'tool server', verbs);
}
