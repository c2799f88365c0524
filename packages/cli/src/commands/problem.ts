import { type Command, Option } from '@commander-js/extra-typings';
import type { ProblemDetail, ProblemSummary } from '@pindro/contract';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { showFinding } from '../output/run-tree.js';
import { brief, moment, table } from '../output/table.js';
import { wholeNumber } from './table.js';

const STATES = ['open', 'expected', 'resolved', 'recurring'] as const;
/** So much of a fingerprint tells problems apart. */
const SHORT = 8;

const stateWords = ({ state, until }: ProblemSummary): string => {
  if (state === 'recurring') return pc.red('recurring');
  if (state === 'resolved') return pc.green('resolved');
  if (state === 'expected') return pc.dim(until ? `expected until ${moment(until)}` : 'expected');
  return pc.yellow('open');
};
const times = (count: number, what = 'run') => `${count} ${what}${count === 1 ? '' : 's'}`;
const often = (title: string, list: { name: string; times: number }[]) =>
  list.length > 0
    ? [`${pc.dim(title.padEnd(8))} ${list.map(({ name, times: count }) => `${name} (${count})`).join(', ')}`]
    : [];

const retryCostWords = ({ waste: { rounds, tokens, money } }: ProblemSummary): string =>
  [
    ...(rounds > 0 ? [times(rounds, 'round')] : []),
    ...(tokens > 0 ? [`${tokens} tokens`] : []),
    ...(money > 0 ? [`${Number(money.toPrecision(2))} cost`] : []),
  ].join(', ');

function showProblem(one: ProblemDetail): string {
  const most = Math.max(1, ...one.days.map(({ times: count }) => count));
  const bars = one.days.map(({ times: count }) => ' ▁▂▃▄▅▆▇█'[Math.ceil((count / most) * 8)]).join('');
  const since = one.sinceRevision === null ? 'a draft' : `revision ${one.sinceRevision}`;
  return [
    `${pc.bold(one.id)}  ${stateWords(one)}  ${pc.dim(`${times(one.times)}, first ${moment(one.firstAt)} with ${since}, last ${moment(one.lastAt)}`)}`,
    ...(one.note ? [`${pc.dim('note')}     ${one.note}${one.by ? pc.dim(`, ${one.by}`) : ''}`] : []),
    '',
    showFinding(one.finding),
    ...often('flows', one.flows),
    ...often('tools', one.tools),
    ...often('callers', one.callers),
    `${pc.dim('by day'.padEnd(8))} ${bars}  ${pc.dim(`${one.days.length} days until today`)}`,
    ...(retryCostWords(one) ? [`${pc.dim('spent'.padEnd(8))} ${retryCostWords(one)} wasted`] : []),
    ...(one.toolsChanged
      ? [
          `${pc.dim('since'.padEnd(8))} the tools of ${one.toolsChanged.server} changed ${moment(one.toolsChanged.at)}: ${one.toolsChanged.tools.slice(0, 5).join(', ')}`,
        ]
      : []),
    `${pc.dim('runs'.padEnd(8))} ${one.runs
      .slice(0, 5)
      .map(({ run }) => run)
      .join(', ')}`,
  ].join('\n');
}

export function problemCommands(program: Command): void {
  const problem = program.command('problem').description('problems across runs: list, show, resolve, expect, reopen');

  listCommand(problem);
  showCommand(problem);

  const judged = async (
    { client, print }: Context,
    id: string,
    body: { state: 'open' | 'expected' | 'resolved'; note: string; days?: number },
  ) => {
    const one = await client.updateProblem({ id, body });
    print(one, () => `${pc.green('✓')} ${one.id.slice(0, SHORT)} is ${stateWords(one)}: ${one.title}`);
  };
  problem
    .command('resolve <problem>')
    .description('marks a problem as resolved; if it occurs again, it is recurring')
    .option('--note <text>', 'the change that resolved it', '')
    .action(
      withService((context, [id], { note }: Record<string, unknown>) =>
        judged(context, id, { state: 'resolved', note: String(note) }),
      ),
    );
  problem
    .command('expect <problem>')
    .description('marks a problem as expected')
    .option('--days <count>', 'number of days; unlimited by default', wholeNumber)
    .option('--note <text>', 'why', '')
    .action(
      withService((context, [id], { note, days }: Record<string, unknown>) =>
        judged(context, id, {
          state: 'expected',
          note: String(note),
          ...(days !== undefined && { days: Number(days) }),
        }),
      ),
    );
  problem
    .command('reopen <problem>')
    .description('marks a problem as open again')
    .option('--note <text>', 'why', '')
    .action(
      withService((context, [id], { note }: Record<string, unknown>) =>
        judged(context, id, { state: 'open', note: String(note) }),
      ),
    );
}

function listCommand(problem: Command): void {
  problem
    .command('list')
    .description('lists open and recurring problems, most recent first')
    .option('--flow <name>', 'only problems of this flow')
    .addOption(new Option('--state <state>', 'only problems in this state').choices(STATES))
    .option('--handled', 'only failures that were handled in their runs, with their cost; the most expensive first')
    .option('--limit <count>', 'maximum number', wholeNumber, 50)
    .action(
      withService(async ({ client, print }, _args, options) => {
        const { flow, state, limit, handled } = options;
        const list = await client.listProblems({
          query: { limit, ...(flow && { flow }), ...(state && { state }), ...(handled && { handled: 'true' }) },
        });
        const rows = list.items.map((one) => [
          one.id.slice(0, SHORT),
          handled ? retryCostWords(one) || '-' : stateWords(one),
          String(one.times),
          moment(one.lastAt),
          one.flow,
          brief(one.title, 100),
        ]);
        print(list, () =>
          rows.length > 0
            ? table(['PROBLEM', handled ? 'COST' : 'STATE', 'RUNS', 'LAST', 'FLOW', 'PROBLEM'], rows)
            : handled
              ? 'No failures were handled.'
              : 'No open problems.',
        );
      }),
    );
}

function showCommand(problem: Command): void {
  problem
    .command('show <problem>')
    .description('shows one problem: finding, frequency, location and runs')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.getProblem({ id });
        print(one, () => showProblem(one));
      }),
    );
}
