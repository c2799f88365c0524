import type { Command } from '@commander-js/extra-typings';
import { RESOURCE } from '@pindro/contract';
import type { JsonObject } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readObject } from '../input/json.js';
import { brief, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

/** The input last tried has no name; it is shown in brackets. */
const shown = (name: string) => name || '(last trial)';

export function sampleCommands(program: Command): void {
  const sample = program
    .command('sample')
    .description('saved inputs for trying a flow: save, list, show, update, rename, copy, remove');
  for (const [verb, fresh, about] of [
    ['save', true, 'saves an input, as JSON, under a name'],
    ['update', false, 'updates a saved input'],
  ] as const)
    sample
      .command(`${verb} <flow> <name> <input>`)
      .description(about)
      .action(
        withService(async ({ client, print }, [flow, name, input]) => {
          const value = readObject(input);
          if (!fresh) await client.getSample({ name: flow, sample: name });
          await client.saveSample({ name: flow, body: { name, input: value as JsonObject, fresh } });
          print({ done: true }, `${pc.green('✓')} Saved ${name} for ${flow}`);
        }),
      );
  sample
    .command('list <flow> [words]')
    .description('lists saved inputs of a flow, optionally filtered by words in their name or input')
    .action(
      withService(async ({ client, print }, [flow, search = '']) => {
        const { samples } = await client.flowTrials({ name: flow });
        const has = ({ name, input }: (typeof samples)[number]) =>
          `${name} ${JSON.stringify(input)}`.toLowerCase().includes(search.toLowerCase());
        const items = samples.filter(has);
        print({ items }, () =>
          items.length > 0
            ? table(
                ['NAME', 'INPUT'],
                items.map(({ name, input }) => [shown(name), brief(input)]),
              )
            : `No ${search ? 'matching ' : ''}saved inputs for ${flow}.`,
        );
      }),
    );
  wholeVerbs(sample, RESOURCE.sample, {
    named: '<flow> <name>',
    show: async (client, [flow, name]) => {
      const one = await client.getSample({ name: flow!, sample: name! });
      return { value: one, text: JSON.stringify(one.input, null, 2) };
    },
  });
}
