import type { Client } from '@pindro/contract';
import { compareValues, humanDuration, type Json } from '@pindro/core/browser';
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
    ? pc.dim('absent')
    : `${MARKS[side.status] ?? side.status} ${side.took === null ? '' : humanDuration(side.took)}`;

const FIELDS_SHOWN = 12;
/** Fields that differ, one below the other, with both values. */
function fieldsOf(part: string, one: Json | undefined, other: Json | undefined): string[] {
  const fields = compareValues(one, other).filter(({ same }) => !same);
  const value = (some: Json | undefined) => (some === undefined ? pc.dim('absent') : brief(some, 300));
  const rest = fields.length - FIELDS_SHOWN;
  return [
    ...fields
      .slice(0, FIELDS_SHOWN)
      .flatMap(({ path, one: here, other: there }) => [
        `  ${pc.dim([part, ...path].join(' › '))}`,
        `    ${pc.dim('this ')} ${value(here)}`,
        `    ${pc.dim('other')} ${value(there)}`,
      ]),
    ...(rest > 0 ? [pc.dim(`  … and ${rest} more; --json lists all`)] : []),
  ];
}

/** Describes the comparison of two runs: the first difference, then all rows. */
export function showComparison(id: string, { other, rows, first }: Found): string {
  const here = rows.find(({ what }) => what === first);
  const part = (name: 'input' | 'output' | 'error') =>
    here && (here.differs.includes(name) || here.differs.includes('came'))
      ? fieldsOf(
          name,
          (here.one?.[name] ?? undefined) as Json | undefined,
          (here.other?.[name] ?? undefined) as Json | undefined,
        )
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
      ['STEP OR CALL', 'THIS RUN', 'OTHER RUN', 'DIFFERS IN'],
      rows.map(({ what, one, other: there, differs }) => [
        what,
        shown(one),
        shown(there),
        differs.map((part) => (part === 'came' ? 'only in one run' : part)).join(', '),
      ]),
    ),
  ].join('\n');
}
