import type { Client } from '@pindro/contract';
import pc from 'picocolors';

/** What became of a change that a finding proposed: it was made, or tried on recorded runs. */
export function showCure(id: string, { done, made, tried }: Awaited<ReturnType<Client['cureRun']>>): string {
  if (made) return `${pc.green('✓')} done: ${done}\n${pc.dim(`pindro run again ${id}`)}`;
  if (!tried) return `It would ${done}. Such a change cannot be tried beforehand.`;
  const runs = (count: number) => `${count} recorded run${count === 1 ? '' : 's'}`;
  return [
    `It would ${done}.`,
    tried.tried === 0
      ? `${pc.yellow('!')} No recorded run could be tried with it.`
      : `${tried.cured > 0 ? pc.green('✓') : pc.yellow('!')} It would have cured ${tried.cured} of ${runs(tried.tried)}, tried with what was recorded.`,
    ...tried.left.map(({ run, why }) => `  ${run}  ${why}`),
    pc.dim(`pindro run cure ${id}`),
  ].join('\n');
}
