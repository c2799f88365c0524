import { type Command, Option } from '@commander-js/extra-typings';
import { FIGURES_BY } from '@pindro/contract';
import { humanDuration } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { table } from '../output/table.js';
import { wholeNumber } from './table.js';

const within = (value: number | null) => (value === null ? '' : humanDuration(value));

export function metricsCommand(program: Command): void {
  program
    .command('metrics')
    .description('shows the number of runs or calls, failures, durations, tokens and cost')
    .addOption(new Option('--by <what>', 'grouped by').choices(FIGURES_BY).default('flow'))
    .option('--hours <count>', 'number of hours up to now', wholeNumber, 24)
    .action(
      withService(async ({ client, print }, _args, options) => {
        const { by, hours } = options;
        const found = await client.metricSeries({ query: { by, hours } });
        const rows = found.items.map((one) => [
          one.name || 'all',
          String(one.runs),
          one.failed > 0 ? pc.red(String(one.failed)) : '0',
          within(one.p50),
          within(one.p95),
          one.tokens > 0 ? String(one.tokens) : '',
          one.cost > 0 ? one.cost.toFixed(4) : '',
        ]);
        const counted = ['flow', 'all', 'caller', 'endpoint'].includes(by) ? 'RUNS' : 'CALLS';
        print(found, () =>
          rows.length > 0
            ? table([by.toUpperCase(), counted, 'FAILED', 'MEDIAN', 'P95', 'TOKENS', 'COST'], rows)
            : `No data for the last ${hours === 1 ? 'hour' : `${hours} hours`}.`,
        );
      }),
    );
}
