import type { Client } from '@pindro/contract';
import { humanDuration } from '@pindro/core/browser';
import pc from 'picocolors';
import { brief, moment, table } from './table.js';

type Found = Awaited<ReturnType<Client['compareRuns']>>;
type Side = Found['rows'][number]['one'];

const MARKS: Record<string, string> = {
  ok: pc.green('✓'),
  error: pc.red('✗'),
  skipped: pc.dim('–'),
  running: pc.cyan('…'),
};
const shown = (side: Side) =>
  side === null
    ? pc.dim('not there')
    : `${MARKS[side.status] ?? side.status} ${side.took === null ? '' : humanDuration(side.took)}`;

/** Describes the comparison of two runs: the first difference, then all rows. */
export function showComparison(id: string, { other, rows, first }: Found): string {
  const here = rows.find(({ what }) => what === first);
  const part = (name: 'input' | 'output' | 'error') =>
    here && (here.differs.includes(name) || here.differs.includes('came'))
      ? [
          `  ${pc.dim(name.padEnd(6))} ${pc.dim('here ')} ${brief(here.one?.[name] ?? null, 300)}`,
          `  ${' '.repeat(6)} ${pc.dim('there')} ${brief(here.other?.[name] ?? null, 300)}`,
        ]
      : [];
  return [
    `${pc.bold(id)} compared with ${pc.bold(other.id)}  ${pc.dim(`${other.state} ${moment(other.startedAt)}`)}`,
    '',
    ...(here
      ? [
          `${pc.yellow('!')} First difference: ${pc.bold(here.what)}`,
          ...part('input'),
          ...part('output'),
          ...part('error'),
          '',
        ]
      : [`${pc.green('✓')} No differences`, '']),
    table(
      ['WHAT', 'HERE', 'THERE', 'DIFFERS IN'],
      rows.map(({ what, one, other: there, differs }) => [what, shown(one), shown(there), differs.join(', ')]),
    ),
  ].join('\n');
}
