import type { Review, SelfTest, Usage } from '@pindro/contract';
import { humanDuration } from '@pindro/core/browser';
import pc from 'picocolors';
import { table } from './table.js';

/** Describes the suggestions for a tool list. */
export function showReview({ suggestions, tokens, sent }: Review): string {
  const head = `${sent.length} tool${sent.length === 1 ? '' : 's'}, about ${tokens} tokens`;
  if (suggestions.length === 0) return `${pc.green('✓')} ${head}. No findings.`;
  const lines = suggestions.map((reviewSuggestion) =>
    [
      `${reviewSuggestion.weight === 'hurts' ? pc.red('●') : pc.yellow('○')} ${pc.bold(reviewSuggestion.title)}  ${pc.dim(reviewSuggestion.id)}`,
      `  ${reviewSuggestion.why}`,
      `  ${pc.green('→')} ${reviewSuggestion.instead}`,
    ].join('\n'),
  );
  const mendable = suggestions.filter(({ fix }) => fix !== null).length;
  const hint = mendable > 0 ? `\n\n${mendable} of ${suggestions.length} can be applied with --apply.` : '';
  return `${head}, ${suggestions.length} finding${suggestions.length === 1 ? '' : 's'}\n\n${lines.join('\n\n')}${hint}`;
}

const SIGNS = { passed: pc.green('✓'), failed: pc.red('✗'), 'not tested': pc.dim('·') };

export function showSelfTest({ ok, steps }: SelfTest): string {
  const lines = steps.map(({ what, state, found, fix }) =>
    [`${SIGNS[state]} ${what}${found ? pc.dim(`  ${found}`) : ''}`, ...(fix ? [`  ${pc.green('→')} ${fix}`] : [])].join(
      '\n',
    ),
  );
  return `${lines.join('\n')}\n\n${ok ? 'A client can connect.' : 'A client cannot connect.'}`;
}

const took = (ms: number | null) => (ms === null ? '-' : humanDuration(ms));

export function showUsage({ tools, total }: Usage): string {
  if (total.calls === 0) return 'No calls in this period.';
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
