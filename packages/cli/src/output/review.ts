import type { Review, SelfTest, Usage } from '@pindro/contract';
import { humanDuration } from '@pindro/core/browser';
import pc from 'picocolors';
import { table } from './table.js';

/** What is wrong with a tool list, remark by remark. */
export function showReview({ remarks, tokens, sent }: Review): string {
  const head = `${sent.length} tool${sent.length === 1 ? '' : 's'}, about ${tokens} tokens`;
  if (remarks.length === 0) return `${pc.green('✓')} ${head}. Nothing to remark.`;
  const lines = remarks.map((remark) =>
    [
      `${remark.weight === 'hurts' ? pc.red('●') : pc.yellow('○')} ${pc.bold(remark.title)}  ${pc.dim(remark.id)}`,
      `  ${remark.why}`,
      `  ${pc.green('→')} ${remark.instead}`,
    ].join('\n'),
  );
  const mendable = remarks.filter(({ fix }) => fix !== null).length;
  const hint = mendable > 0 ? `\n\n${mendable} of ${remarks.length} can be applied: add --apply.` : '';
  return `${head}, ${remarks.length} remark${remarks.length === 1 ? '' : 's'}\n\n${lines.join('\n\n')}${hint}`;
}

const SIGNS = { well: pc.green('✓'), failed: pc.red('✗'), 'not tried': pc.dim('·') };

export function showSelfTest({ well, steps }: SelfTest): string {
  const lines = steps.map(({ what, state, found, fix }) =>
    [`${SIGNS[state]} ${what}${found ? pc.dim(`  ${found}`) : ''}`, ...(fix ? [`  ${pc.green('→')} ${fix}`] : [])].join(
      '\n',
    ),
  );
  return `${lines.join('\n')}\n\n${well ? 'A client can connect.' : 'A client cannot connect yet.'}`;
}

const took = (ms: number | null) => (ms === null ? '-' : humanDuration(ms));

export function showUsage({ tools, total }: Usage): string {
  if (total.calls === 0) return 'Nobody has called anything in this time.';
  const rows = [...tools, { ...total, tool: 'all' }].map(({ tool, calls, failed, p50, p95, callers, refused }) => [
    tool,
    String(calls),
    String(failed),
    took(p50),
    took(p95),
    callers.map(({ caller, calls: own }) => `${caller} ${own}`).join(', '),
    refused.map(({ argument, times }) => `${argument} ${times}`).join(', ') || '-',
  ]);
  return table(['TOOL', 'CALLS', 'FAILED', 'P50', 'P95', 'CALLERS', 'REFUSED'], rows);
}
