import type { Command } from '@commander-js/extra-typings';
import { withService } from '../context.js';
import { brief, table } from '../output/table.js';
import { wholeNumber } from './table.js';

/** One search over everything, as the console has it. */
export function searchCommand(program: Command): void {
  program
    .command('search <words...>')
    .description('searches flows, steps, tools, tables and settings, and runs by ID')
    .option('--limit <count>', 'maximum number', wholeNumber, 30)
    .action(
      withService(async ({ client, print }, [words], options) => {
        const query = { words: words.join(' '), limit: options.limit as number };
        const { items } = await client.search({ query });
        const rows = items.map((one) => [one.sort, one.name, one.in ?? '-', brief(`${one.title}  ${one.about}`, 60)]);
        print({ items }, () =>
          items.length > 0 ? table(['SORT', 'NAME', 'IN', 'WHAT'], rows) : `No results for "${words.join(' ')}".`,
        );
      }),
    );
}
