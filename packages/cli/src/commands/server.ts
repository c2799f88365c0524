import type { Command } from 'commander';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readObject } from '../input/json.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, state, table } from '../output/table.js';

export function serverCommands(program: Command): void {
  const server = program
    .command('server')
    .description("other people's tool servers: attach, list, tools, call, refresh, detach");

  server
    .command('attach <name> <address>')
    .description('attaches a tool server over Streamable HTTP; it is tested first')
    .option('--credential <name>', 'a credential that goes along')
    .option('--secret', 'asks for a bearer key (or reads it from standard input) and keeps it as a credential')
    .action(
      withService(async ({ client, print, progress }, [name, url], options: Record<string, unknown>) => {
        const secret = options.secret ? await readSecret(`Bearer key for ${name}: `) : undefined;
        progress(`asking ${url} for its tools …`);
        const one = await client.attachServer({
          body: {
            name: name!,
            url: url!,
            ...(options.credential ? { credential: String(options.credential) } : {}),
            ...(secret !== undefined && { secret }),
          },
        });
        print(
          one,
          `${pc.green('✓')} ${name} is attached: ${one.about || one.url}, ${one.tools} tools (${one.toolList.map((tool) => tool.name).join(', ')})`,
        );
      }),
    );

  server
    .command('list')
    .description('all attached tool servers')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listServers();
        const rows = items.map((one) => [one.name, state(one.state), String(one.tools), moment(one.seenAt), one.url]);
        const troubles = items
          .filter((one) => one.trouble)
          .map((one) => `\n${pc.red('✗')} ${one.trouble}\n  ${one.fix ?? ''}`);
        print({ items }, () =>
          items.length > 0
            ? table(['SERVER', 'STATE', 'TOOLS', 'LAST SEEN', 'ADDRESS'], rows) + troubles.join('')
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
          const args = properties.map(
            ([key, schema]) =>
              `    ${key}${required.includes(key) ? '' : '?'}  ${pc.dim([schema.enum?.join('|') ?? schema.format ?? schema.type ?? 'any', schema.description ?? ''].filter(Boolean).join('  '))}`,
          );
          return [`  ${pc.bold(tool.name)}  ${tool.description}`, ...args].join('\n');
        });
        print(one, () =>
          [
            facts([
              ['server', `${one.name}  ${pc.dim(one.about)}`],
              ['address', one.url],
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
    .description('calls one tool with arguments as JSON')
    .action(
      withService(async ({ client, print, progress }, [name, tool, given]) => {
        progress(`calling ${tool} of ${name} …`);
        const result = await client.callServerTool({
          name: name!,
          tool: tool!,
          body: { arguments: readObject(given || '{}') },
        });
        print(
          result,
          () =>
            `${result.isError ? `${pc.red('✗')} ${result.text}` : result.data === null ? result.text : JSON.stringify(result.data, null, 2)}\n${pc.dim(`${result.milliseconds} ms`)}`,
        );
        if (result.isError) throw new QuietFailure();
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

  server
    .command('detach <name>')
    .description('detaches a tool server that nothing uses')
    .action(
      withService(async ({ client, print }, [name]) => {
        await client.detachServer({ name: name! });
        print({ done: true }, `${pc.green('✓')} ${name} is detached`);
      }),
    );
}
