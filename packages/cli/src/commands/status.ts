import type { Command } from '@commander-js/extra-typings';
import { withService } from '../context.js';
import { recordLine } from '../output/record.js';
import { facts, state } from '../output/table.js';

export function statusCommands(program: Command): void {
  program
    .command('status')
    .description('shows the status and addresses of the service')
    .action(
      withService(async ({ client, connection, print }) => {
        const one = await client.status();
        print(one, () =>
          facts([
            ['service', `${one.url}  version ${one.version}  (address from ${connection.from})`],
            ['flows', String(one.flows)],
            ['endpoints', String(one.endpoints)],
            ['runs', `${one.runs}, ${one.running} running${one.queued > 0 ? `, ${one.queued} queued` : ''}`],
            ['record', one.trouble ?? recordLine(one.record)],
            ...one.servers.map((server): [string, string] => [
              'tool server',
              `${server.name}  ${state(server.state)}  ${server.trouble ?? `${server.tools} tools`}`,
            ]),
            ...one.models.map((model): [string, string] => [
              'model',
              `${model.name}  ${model.trouble ?? 'result of the last test'}`,
            ]),
          ]),
        );
      }),
    );

  program
    .command('sign-in')
    .description('creates a one-time link that opens the console')
    .action(
      withService(async ({ client, print }) => {
        const { url } = await client.createSignInLink({ body: {} });
        print({ url }, url);
      }),
    );
}
