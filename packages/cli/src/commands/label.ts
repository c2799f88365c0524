import type { Command } from '@commander-js/extra-typings';
import { RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';

export function labelCommands(program: Command): void {
  const label = program.command('label').description('labels of flows: add, list, show, rename, remove');
  label
    .command('list [words]')
    .description('lists labels, optionally filtered by words')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listLabels({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['LABEL', 'FLOWS'],
                items.map(({ name, flows }) => [name, flows.join(', ')]),
              )
            : `No ${search ? 'matching ' : ''}labels${search ? '' : ' yet'}.`,
        );
      }),
    );
  label
    .command('add <label> <flow...>')
    .description('adds a label to flows')
    .action(
      withService(async ({ client, print }, [name, flows]) => {
        for (const flow of flows) {
          const { labels } = await client.getFlow({ name: flow });
          if (!labels.includes(name)) await client.updateFlow({ name: flow, body: { labels: [...labels, name] } });
        }
        print({ name, flows }, `${pc.green('✓')} ${flows.join(', ')}: ${name}`);
      }),
    );
  label
    .command('remove <label>')
    .description('removes a label from every flow')
    .action(
      withService(async ({ client, print }, [name]) => {
        const done = await client.removeLabel({ name });
        print(done, `${pc.green('✓')} Removed ${name} from ${done.flows.join(', ')}`);
      }),
    );
  wholeVerbs(label, RESOURCE.label, {
    named: '<label>',
    show: async (client, [name]) => {
      const { items } = await client.listLabels({});
      const one = items.find((found) => found.name === name);
      if (!one) throw usage(`No flow has the label "${name}"`, 'List them with "pindro label list".');
      return { value: one, text: one.flows.join('\n') };
    },
  });
}
