import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './whole.js';

export function labelCommands(program: Command): void {
  const label = program.command('label').description('labels that flows carry: add, list, show, rename, remove');
  label
    .command('list [words]')
    .description('all labels, or those with these words in them')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listLabels({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['LABEL', 'FLOWS'],
                items.map(({ name, flows }) => [name, flows.join(', ')]),
              )
            : `No flow carries a label${search ? ' like that' : ' yet'}.`,
        );
      }),
    );
  label
    .command('add <label> <flow...>')
    .description('puts a label on flows')
    .action(
      withService(async ({ client, print }, [name, ...flows]) => {
        for (const flow of flows) {
          const { labels } = await client.getFlow({ name: flow });
          if (!labels.includes(name!)) await client.changeFlow({ name: flow, body: { labels: [...labels, name!] } });
        }
        print({ name, flows }, `${pc.green('✓')} ${flows.join(', ')}: ${name}`);
      }),
    );
  label
    .command('remove <label>')
    .description('takes a label off every flow')
    .action(
      withService(async ({ client, print }, [name]) => {
        const done = await client.removeLabel({ name: name! });
        print(done, `${pc.green('✓')} ${name} is off ${done.flows.join(', ')}`);
      }),
    );
  wholeVerbs(label, 'label', {
    named: '<label>',
    show: async (client, [name]) => {
      const { items } = await client.listLabels({});
      const one = items.find((found) => found.name === name);
      if (!one) throw usage(`No flow carries the label "${name}"`, '"pindro label list" shows those there are.');
      return { value: one, text: one.flows.join('\n') };
    },
    rename: (client, [name], to) => client.renameLabel({ name: name!, body: { to } }),
  });
}
