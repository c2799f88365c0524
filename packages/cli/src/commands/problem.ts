import type { ProblemDetail, ProblemState, ProblemSummary } from '@pindro/contract';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { showFinding } from '../output/run-tree.js';
import { brief, moment, table } from '../output/table.js';
import { wholeNumber } from './table.js';

const STATES = ['open', 'expected', 'mended', 'returned'] as const;
/** So much of a fingerprint tells problems apart. */
const SHORT = 8;

const stateWords = ({ state, until }: ProblemSummary): string => {
  if (state === 'returned') return pc.red('came back');
  if (state === 'mended') return pc.green('mended');
  if (state === 'expected') return pc.dim(until ? `expected until ${moment(until)}` : 'expected');
  return pc.yellow('open');
};
const times = (count: number, what = 'run') => `${count} ${what}${count === 1 ? '' : 's'}`;
const often = (title: string, list: { name: string; times: number }[]) =>
  list.length > 0
    ? [`${pc.dim(title.padEnd(8))} ${list.map(({ name, times: count }) => `${name} (${count})`).join(', ')}`]
    : [];

const wasteWords = ({ waste: { rounds, tokens, money } }: ProblemSummary): string =>
  [
    ...(rounds > 0 ? [times(rounds, 'round')] : []),
    ...(tokens > 0 ? [`${tokens} tokens`] : []),
    ...(money > 0 ? [`${Number(money.toPrecision(2))} in money`] : []),
  ].join(', ');

function showProblem(one: ProblemDetail): string {
  const most = Math.max(1, ...one.days.map(({ times: count }) => count));
  const bars = one.days.map(({ times: count }) => ' ▁▂▃▄▅▆▇█'[Math.ceil((count / most) * 8)]).join('');
  const since = one.sinceRevision === null ? 'a draft' : `revision ${one.sinceRevision}`;
  return [
    `${pc.bold(one.id)}  ${stateWords(one)}  ${pc.dim(`seen in ${times(one.times)}, first ${moment(one.firstAt)} with ${since}, last ${moment(one.lastAt)}`)}`,
    ...(one.note ? [`${pc.dim('said')}     ${one.note}${one.by ? pc.dim(`, ${one.by}`) : ''}`] : []),
    '',
    showFinding(one.finding),
    ...often('flows', one.flows),
    ...often('tools', one.tools),
    ...often('callers', one.callers),
    `${pc.dim('by day'.padEnd(8))} ${bars}  ${pc.dim(`${one.days.length} days up to today`)}`,
    ...(wasteWords(one) ? [`${pc.dim('spent'.padEnd(8))} ${wasteWords(one)} in vain`] : []),
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
  const problem = program
    .command('problem')
    .description('what goes wrong across runs: list, show, mended, expected, open');

  problem
    .command('list')
    .description('what is open or came back, the latest first')
    .option('--flow <name>', 'only of this flow')
    .addOption(new Option('--state <state>', 'only those in this state').choices(STATES))
    .option('--dealt-with', 'those that were dealt with in their runs, and what that cost; the dearest first')
    .option('--limit <count>', 'at most so many', wholeNumber, 50)
    .action(
      withService(async ({ client, print }, _args, options: Record<string, unknown>) => {
        const { flow, state, limit, dealtWith } = options as {
          flow?: string;
          state?: ProblemState;
          limit: number;
          dealtWith?: boolean;
        };
        const list = await client.listProblems({
          query: { limit, ...(flow && { flow }), ...(state && { state }), ...(dealtWith && { dealtWith: 'true' }) },
        });
        const rows = list.items.map((one) => [
          one.id.slice(0, SHORT),
          dealtWith ? wasteWords(one) || '-' : stateWords(one),
          String(one.times),
          moment(one.lastAt),
          one.flow,
          brief(one.title, 100),
        ]);
        print(list, () =>
          rows.length > 0
            ? table(['PROBLEM', dealtWith ? 'SPENT' : 'STATE', 'RUNS', 'LAST', 'FLOW', 'WHAT GOES WRONG'], rows)
            : dealtWith
              ? 'Nothing went wrong that was dealt with.'
              : 'No problem is open.',
        );
      }),
    );

  problem
    .command('show <problem>')
    .description('one problem: what is found, how often, where, in which runs')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.getProblem({ id: id! });
        print(one, () => showProblem(one));
      }),
    );

  const judged = async (
    { client, print }: Context,
    id: string,
    body: { state: 'open' | 'expected' | 'mended'; note: string; days?: number },
  ) => {
    const one = await client.judgeProblem({ id, body });
    print(one, () => `${pc.green('✓')} ${one.id.slice(0, SHORT)} is ${stateWords(one)}: ${one.title}`);
  };
  problem
    .command('mended <problem>')
    .description('says that it is mended; if it is seen again it has come back')
    .option('--note <text>', 'by which change', '')
    .action(
      withService((context, [id], { note }: Record<string, unknown>) =>
        judged(context, id!, { state: 'mended', note: String(note) }),
      ),
    );
  problem
    .command('expected <problem>')
    .description('says that it is expected, so that nobody need look')
    .option('--days <count>', 'for so many days; without end if left out', wholeNumber)
    .option('--note <text>', 'why', '')
    .action(
      withService((context, [id], { note, days }: Record<string, unknown>) =>
        judged(context, id!, {
          state: 'expected',
          note: String(note),
          ...(days !== undefined && { days: Number(days) }),
        }),
      ),
    );
  problem
    .command('open <problem>')
    .description('says that it is to be looked at after all')
    .option('--note <text>', 'why', '')
    .action(
      withService((context, [id], { note }: Record<string, unknown>) =>
        judged(context, id!, { state: 'open', note: String(note) }),
      ),
    );
}
