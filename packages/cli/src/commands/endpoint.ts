import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { showSettings } from '../output/client-settings.js';
import { facts, moment, table } from '../output/table.js';

export function endpointCommands(program: Command): void {
  const endpoint = program.command('endpoint').description('MCP endpoints: list, show, connect');

  endpoint
    .command('list')
    .description('all endpoints')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listEndpoints();
        print({ items }, () =>
          items.length > 0
            ? table(
                ['ENDPOINT', 'TOOLS', 'KEYS', 'SESSIONS', 'ADDRESS'],
                items.map((one) => [one.name, String(one.tools), String(one.keys), String(one.sessions), one.url]),
              )
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
              ['tells', one.instructions || '-'],
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
    .description('settings for each shape of client, with a gap for the key')
    .action(
      withService(async ({ client, print }, [name]) => {
        const { settings } = await client.connectEndpoint({ name: name! });
        print(
          { settings },
          () => `${showSettings(settings)}\n${pc.dim(`A key for it: pindro key issue NAME --endpoint ${name}`)}`,
        );
      }),
    );
}
