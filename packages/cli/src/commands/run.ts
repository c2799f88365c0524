import { type Command, Option } from '@commander-js/extra-typings';
import type { Client, RunSummary } from '@pindro/contract';
import { ENTRIES, humanDuration, milliseconds, PindroError, RUN_STATES } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { showComparison } from '../output/comparison.js';
import { exchangesIn, showExchanges } from '../output/exchanges.js';
import { followRuns } from '../output/follow.js';
import { recordLine } from '../output/record.js';
import { showRun } from '../output/run-tree.js';
import { brief, moment, state, table } from '../output/table.js';
import { readJson, showOutcome } from './flow-run.js';
import { registerRunFix } from './run-fix.js';
import { wholeNumber } from './table.js';

const AGAIN_ON = ['draft', 'live', 'ran'] as const;

const FILTERS = [
  ...['flow', 'state', 'caller', 'session', 'endpoint', 'tool', 'server', 'model', 'entry', 'finding', 'problem'],
  ...['trace', 'since', 'until', 'text', 'limit'],
];
/** Query parameters of the API by the options that set them. */
const MINIMUMS = { minDuration: 'longer', minTokens: 'tokens', minCost: 'cost' };
const SWITCHES = ['roots', 'failed'];

/** Returns the query of the API for the options of a command. */
function filterOf(
  options: Record<string, unknown>,
): NonNullable<NonNullable<Parameters<Client['listRuns']>[0]>['query']> {
  const given = [...FILTERS.map((name) => [name, name]), ...Object.entries(MINIMUMS)]
    .map(([option, parameter]) => [parameter, options[option!]])
    .filter(([, value]) => value !== undefined);
  const on = SWITCHES.filter((name) => options[name]).map((name) => [name, 'true']);
  return Object.fromEntries([...given, ...on]);
}

/** @throws a usage error where there is none of that name */
async function savedFilter(client: Client, name: unknown): Promise<Record<string, string>> {
  if (typeof name !== 'string') return {};
  const { items } = await client.listFilters();
  const found = items.find((one) => one.name === name);
  if (found) return found.query;
  const fix = items.length > 0 ? `Available: ${items.map((one) => one.name).join(', ')}.` : 'No filters are saved.';
  throw new PindroError('not_found', { what: 'saved filter', name, suggestion: fix });
}

/** A run as a line of a list. */
const rowOf = (one: RunSummary): string[] => [
  one.id,
  one.flow,
  state(one.state),
  one.endedAt ? humanDuration(Date.parse(one.endedAt) - Date.parse(one.startedAt)) : '',
  moment(one.startedAt),
  one.caller,
  one.title
    ? pc.red(brief(one.title, 90))
    : one.doubt
      ? pc.yellow(brief(one.doubt, 90))
      : one.failures
        ? pc.yellow('a call in it failed')
        : '',
];

export function runCommands(program: Command): void {
  const run = program
    .command('run')
    .description('runs: list, filters, show, exchanges, retry, compare, fix, create-flow, cancel, prune');

  listCommand(run);
  filtersCommand(run);
  showCommand(run);
  exchangesCommand(run);
  retryCommand(run);
  createFlowCommand(run);
  compareCommand(run);

  registerRunFix(run);

  pruneCommand(run);
  cancelCommand(run);
}

function listCommand(run: Command): void {
  run
    .command('list')
    .description('lists runs, newest first')
    .option('--flow <name>', 'only runs of this flow')
    .addOption(new Option('--state <state>', 'only runs in this state').choices(RUN_STATES))
    .option('--caller <id>', 'only runs on behalf of this caller')
    .option('--session <name>', 'only runs of this conversation')
    .option('--roots', 'only runs that no other run started')
    .option('--endpoint <name>', 'only runs through this endpoint')
    .option('--tool <name>', 'only runs that called this tool')
    .option('--server <name>', 'only runs that called this tool server')
    .option('--model <name>', 'only runs that used this model connection')
    .addOption(new Option('--entry <entry>', 'only runs from this entry point').choices(ENTRIES))
    .option('--finding <code>', 'only runs with this finding (docs/findings.md)')
    .option('--problem <fingerprint>', 'only runs with this problem')
    .option('--trace <id>', 'only runs of this distributed trace')
    .option('--failed', 'only runs with a failure, even if it was handled')
    .option('--since <time>', 'only runs that started at or after: a date-time, or an age such as 2h')
    .option('--until <time>', 'only runs that started before')
    .option('--text <words>', 'only runs with all of these words in their input or output')
    .option('--min-duration <time>', 'only runs of at least this duration, such as 5s')
    .option('--min-tokens <count>', 'only runs with at least this many model tokens', wholeNumber)
    .option('--min-cost <amount>', 'only runs of at least this cost', Number)
    .option('--limit <count>', 'maximum number', wholeNumber, 20)
    .option('--saved <name>', 'applies a saved filter, combined with the other options')
    .option('--save <name>', 'saves the given options as a filter, for everybody')
    .option('-f, --follow', 'keeps running and prints each further run that ends')
    .action(
      withService(async ({ client, print, json, progress }, _args, options) => {
        const query = { ...(await savedFilter(client, options.saved)), ...filterOf(options) };
        if (typeof options.save === 'string') {
          const { limit: _, ...kept } = Object.fromEntries(
            Object.entries(query).map(([name, value]) => [name, String(value)]),
          );
          await client.saveFilter({ name: options.save, body: { query: kept } });
          progress(`saved; pindro run list --saved "${options.save}"`);
        }
        const page = await client.listRuns({ query });
        if (options.follow) return followRuns(client, query, page.items, json);
        const rows = page.items.map(rowOf);
        print(page, () =>
          page.items.length > 0
            ? table(['RUN', 'FLOW', 'STATE', 'DURATION', 'STARTED', 'CALLER', 'FINDING'], rows)
            : 'No runs yet.',
        );
      }),
    );
}

function filtersCommand(run: Command): void {
  run
    .command('filters')
    .description('lists saved run filters')
    .option('--remove <name>', 'removes a saved filter')
    .action(
      withService(async ({ client, print }, _args, { remove }: Record<string, unknown>) => {
        if (typeof remove === 'string') {
          await client.removeFilter({ name: remove });
          return print({ done: true }, () => `${pc.green('✓')} Removed ${remove}`);
        }
        const list = await client.listFilters();
        const rows = list.items.map(({ name, query, by }) => [
          name,
          Object.entries(query)
            .map(([what, value]) => `--${what}${value === 'true' ? '' : ` ${value}`}`)
            .join(' '),
          by,
        ]);
        print(list, () =>
          rows.length > 0
            ? table(['NAME', 'WHAT', 'BY'], rows)
            : 'No filters yet. Save one with "pindro run list --save NAME".',
        );
      }),
    );
}

function showCommand(run: Command): void {
  run
    .command('show <id>')
    .description('shows one run: findings, then the whole trace')
    .option('--full', 'full values and span attributes')
    .action(
      withService(async ({ client, print }, [id], { full }: Record<string, unknown>) => {
        const one = await client.getRun({ id });
        print(one, () => showRun(one, { full: full === true }));
      }),
    );
}

function exchangesCommand(run: Command): void {
  run
    .command('exchanges <id> [where]')
    .description(
      'shows requests and responses: of failures, or all after "retry --capture"; optionally of one step or tool',
    )
    .action(
      withService(async ({ client, print }, [id, where]) => {
        const found = await exchangesIn(client, id, where);
        print(found, () => showExchanges(found, where));
      }),
    );
}

function retryCommand(run: Command): void {
  run
    .command('retry <id>')
    .description('retries a run with the same or another input, or from a step on')
    .addOption(
      new Option('--on <what>', 'the draft (default), the live revision, or the document that ran').choices(AGAIN_ON),
    )
    .option('--from <step>', 'starts at this step; earlier steps are replayed from the recording')
    .option('-i, --input <json>', 'another input', readJson)
    .option('--live', 'with --from: may repeat side effects')
    .option('--round <number>', 'with --from an agent: starts at this model round', wholeNumber)
    .option('--answer <tool=value>', 'with --from an agent: replaces a recorded tool result', collectValue, {})
    .option('--model <name>', 'uses another model connection')
    .option('--capture', 'captures every request and response; see "pindro run exchanges"')
    .option(
      '--change <pointer=value>',
      'replaces a value of the flow for this run: /steps/lift/with/tool=…',
      collectValue,
      {},
    )
    .action(
      withService(async ({ client, print, progress }, [id], options) => {
        progress('retrying …');
        const { from, input, live, round, answer, model, change, capture } = options;
        const on = AGAIN_ON.find((one) => one === options.on);
        const body = {
          ...(on && { on }),
          ...(from && { from }),
          ...(input !== undefined && { input }),
          ...(live && { live }),
          ...(round !== undefined && { round }),
          ...(Object.keys(answer).length > 0 && { answers: answer }),
          ...(model && { model }),
          ...(Object.keys(change).length > 0 && { set: change }),
          ...(capture && { capture: true }),
        };
        showOutcome({ print }, await client.retryRun({ id, body }));
      }),
    );
}

function createFlowCommand(run: Command): void {
  run
    .command('create-flow <id> <name>')
    .description('creates a draft that does what the agent of a run did, without a model')
    .action(
      withService(async ({ client, print }, [id, name]) => {
        const made = await client.createFlowFromRun({ id, body: { name } });
        const left = made.mistakes > 0 ? `, with ${made.mistakes} to fix` : '';
        print(
          made,
          `${pc.green('✓')} ${made.name} created as a draft${left}\n${pc.dim(`pindro flow show ${made.name}`)}`,
        );
      }),
    );
}

function compareCommand(run: Command): void {
  run
    .command('compare <id> [other]')
    .description('compares a run with another one of its flow; by default the last successful one')
    .action(
      withService(async ({ client, print }, [id, other]) => {
        const found = await client.compareRuns({ id, query: other ? { other } : {} });
        print(found, () => showComparison(id, found));
      }),
    );
}

function pruneCommand(run: Command): void {
  run
    .command('prune')
    .description('deletes old runs now, including child runs')
    .option('--older-than <time>', 'runs that ended at least this long ago', '30d')
    .action(
      withService(async ({ client, print }, _args, options) => {
        const olderThanDays = milliseconds(String(options.olderThan)) / (24 * 60 * 60_000);
        const done = await client.pruneRuns({ body: { olderThanDays } });
        const what = done.removed === 1 ? '1 run' : `${done.removed} runs`;
        print(done, () => `${what} gone. ${recordLine(done.record)}`);
      }),
    );
}

function cancelCommand(run: Command): void {
  run
    .command('cancel <id>')
    .description('cancels a run that is in progress')
    .action(
      withService(async ({ client, print }, [id]) => {
        await client.cancelRun({ id });
        print({ done: true }, `${pc.green('✓')} Cancelling ${id}`);
      }),
    );
}
