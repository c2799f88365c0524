import type { Client, RunSummary } from '@pindro/contract';
import { ENTRIES, humanDuration, type Json, milliseconds, PindroError, RUN_STATES } from '@pindro/core/browser';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { showBeside } from '../output/beside.js';
import { exchangesIn, showExchanges } from '../output/exchanges.js';
import { followRuns } from '../output/follow.js';
import { recordLine } from '../output/record.js';
import { showRun } from '../output/run-tree.js';
import { brief, moment, state, table } from '../output/table.js';
import { readJson, showOutcome } from './flow-run.js';
import { registerRunCure } from './run-cure.js';
import { wholeNumber } from './table.js';

const AGAIN_ON = ['draft', 'live', 'ran'] as const;

const FILTERS = [
  ...['flow', 'state', 'caller', 'session', 'endpoint', 'tool', 'server', 'model', 'entry', 'finding', 'problem'],
  ...['trace', 'since', 'until', 'longer', 'text', 'tokens', 'cost', 'limit'],
];
const SWITCHES = ['roots', 'failed'];

/** What runs are looked for, out of the options of a command. */
function filterOf(
  options: Record<string, unknown>,
): NonNullable<NonNullable<Parameters<Client['listRuns']>[0]>['query']> {
  const said = FILTERS.filter((name) => options[name] !== undefined).map((name) => [name, options[name]]);
  const on = SWITCHES.filter((name) => options[name]).map((name) => [name, 'true']);
  return Object.fromEntries([...said, ...on]);
}

/** @throws a usage error where there is none of that name */
async function savedFilter(client: Client, name: unknown): Promise<Record<string, string>> {
  if (typeof name !== 'string') return {};
  const { items } = await client.listFilters();
  const found = items.find((one) => one.name === name);
  if (found) return found.query;
  const fix = items.length > 0 ? `There are ${items.map((one) => one.name).join(', ')}.` : 'None is saved yet.';
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
    .description('runs: list, filters, show, exchanges, again, beside, cure, make-flow, cancel, prune');

  run
    .command('list')
    .description('runs, newest first')
    .option('--flow <name>', 'only of this flow')
    .addOption(new Option('--state <state>', 'only in this state').choices(RUN_STATES))
    .option('--caller <id>', 'only on behalf of this caller')
    .option('--session <name>', 'only of this conversation')
    .option('--roots', 'only runs that no other run started')
    .option('--endpoint <name>', 'only called through this endpoint')
    .option('--tool <name>', 'only in which this tool was called')
    .option('--server <name>', 'only in which this tool server was called')
    .option('--model <name>', 'only in which this model connection was asked')
    .addOption(new Option('--entry <entry>', 'only that came from there').choices(ENTRIES))
    .option('--finding <code>', 'only in which this was found (docs/findings.md)')
    .option('--problem <fingerprint>', 'only in which this problem was seen')
    .option('--trace <id>', 'only of this trace, as whoever else took part in it knows it')
    .option('--failed', 'only in which something failed, also where it was dealt with')
    .option('--since <time>', 'only begun then or later: a moment, or so long ago, such as 2h')
    .option('--until <time>', 'only begun before then')
    .option('--text <words>', 'only in which all of these words went in or out')
    .option('--longer <time>', 'only that took at least so long, such as 5s')
    .option('--tokens <count>', 'only whose models read and wrote at least so many tokens', wholeNumber)
    .option('--cost <amount>', 'only that cost at least so much', Number)
    .option('--limit <count>', 'at most so many', wholeNumber, 20)
    .option('--saved <name>', 'what was saved under this name, with what else is given')
    .option('--save <name>', 'saves what is given here under a name, for everybody')
    .option('-f, --follow', 'stays, and tells of each further one that ends')
    .action(
      withService(async ({ client, print, json, progress }, _args, options: Record<string, unknown>) => {
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
            ? table(['RUN', 'FLOW', 'STATE', 'TOOK', 'STARTED', 'CALLER', 'WHAT WENT WRONG'], rows)
            : 'No run yet.',
        );
      }),
    );

  run
    .command('filters')
    .description('the saved filters of runs')
    .option('--remove <name>', 'removes one')
    .action(
      withService(async ({ client, print }, _args, { remove }: Record<string, unknown>) => {
        if (typeof remove === 'string') {
          await client.removeFilter({ name: remove });
          return print({ done: true }, () => `${pc.green('✓')} ${remove} is not saved any more`);
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
            : 'None is saved. Save one with "pindro run list --save NAME".',
        );
      }),
    );

  run
    .command('show <id>')
    .description('one run: what went wrong, then the whole trace')
    .option('--full', 'with every value whole, and what each span says of itself')
    .action(
      withService(async ({ client, print }, [id], { full }: Record<string, unknown>) => {
        const one = await client.getRun({ id: id! });
        print(one, () => showRun(one, { full: full === true }));
      }),
    );

  run
    .command('exchanges <id> [where]')
    .description(
      'requests and answers as they went over the wire: of what failed, or of all after "again --exact"; of one step or tool only',
    )
    .action(
      withService(async ({ client, print }, [id, where]) => {
        const found = await exchangesIn(client, id!, where);
        print(found, () => showExchanges(found, where));
      }),
    );

  run
    .command('again <id>')
    .description('runs the same input again, or another one, or from a step on')
    .addOption(
      new Option('--on <what>', 'the draft (if left out), what is live, or the document that ran').choices(AGAIN_ON),
    )
    .option('--from <step>', 'from this step on; what stands before it is taken from the record')
    .option('-i, --input <json>', 'another input', readJson)
    .option('--live', 'with --from: may do for real what makes a difference')
    .option('--round <number>', 'with --from an agent: from this round of its model on', wholeNumber)
    .option(
      '--answer <tool=value>',
      'with --from an agent: what a tool gives in place of what it gave',
      collectValue,
      {},
    )
    .option('--model <name>', 'with another model connection')
    .option('--exact', 'keeps every request and answer as it goes over the wire; see "pindro run exchanges"')
    .option(
      '--change <pointer=value>',
      'with another value at a place of the flow: /steps/lift/with/tool=…',
      collectValue,
      {},
    )
    .action(
      withService(async ({ client, print, progress }, [id], options: Record<string, unknown>) => {
        progress('running it again …');
        const { from, input, live, round, answer, model, change, exact } = options as {
          from?: string;
          input?: object;
          live?: boolean;
          round?: number;
          answer: Record<string, Json>;
          model?: string;
          change: Record<string, Json>;
          exact?: boolean;
        };
        const on = AGAIN_ON.find((one) => one === options.on);
        const body = {
          ...(on && { on }),
          ...(from && { from }),
          ...(input && { input: input as never }),
          ...(live && { live }),
          ...(round !== undefined && { round }),
          ...(Object.keys(answer).length > 0 && { answers: answer }),
          ...(model && { model }),
          ...(Object.keys(change).length > 0 && { set: change }),
          ...(exact && { exact }),
        };
        showOutcome({ print }, await client.runAgain({ id: id!, body }));
      }),
    );

  run
    .command('make-flow <id> <name>')
    .description('makes a draft that does without a model what the agent of a run did')
    .action(
      withService(async ({ client, print }, [id, name]) => {
        const made = await client.flowOfRun({ id: id!, body: { name: name! } });
        const left = made.mistakes > 0 ? `, with ${made.mistakes} to mend` : '';
        print(made, `${pc.green('✓')} ${made.name} is a draft${left}\n${pc.dim(`pindro flow show ${made.name}`)}`);
      }),
    );

  run
    .command('beside <id> [other]')
    .description('a run beside another one of its flow: what differs first; the last that went well if none is named')
    .action(
      withService(async ({ client, print }, [id, other]) => {
        const found = await client.besideRun({ id: id!, query: other ? { other } : {} });
        print(found, () => showBeside(id!, found));
      }),
    );

  registerRunCure(run);

  run
    .command('prune')
    .description('lets go of old runs now, with all they began')
    .option('--older-than <time>', 'that ended so long ago', '30d')
    .action(
      withService(async ({ client, print }, _args, options: Record<string, unknown>) => {
        const olderThanDays = milliseconds(String(options.olderThan)) / (24 * 60 * 60_000);
        const done = await client.pruneRuns({ body: { olderThanDays } });
        const what = done.removed === 1 ? '1 run has' : `${done.removed} runs have`;
        print(done, () => `${what} gone. ${recordLine(done.record)}`);
      }),
    );

  run
    .command('cancel <id>')
    .description('cancels a run that is under way')
    .action(
      withService(async ({ client, print }, [id]) => {
        await client.cancelRun({ id: id! });
        print({ done: true }, `${pc.green('✓')} ${id} is being cancelled`);
      }),
    );
}
