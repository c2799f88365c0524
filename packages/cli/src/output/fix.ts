import type { Client } from '@pindro/contract';
import pc from 'picocolors';
import { state } from './table.js';

type Answer = Awaited<ReturnType<Client['fixRun']>>;
type Retried = Awaited<ReturnType<Client['retryRun']>>;

/** Shows the result of a fix that a finding proposed, or of trying it on recorded runs. */
export function showFix(id: string, answer: Answer, retried: Retried | null): string {
  const { done, tried, checked } = answer;
  if (answer.made)
    return [
      `${pc.green('✓')} done: ${done}`,
      ...(checked ? [`${checked.fine ? pc.green('✓') : pc.yellow('!')} ${checked.words}`] : []),
      ...draftLines(id, answer.draft),
      ...(retried ? [`${state(retried.state)} ${retried.run}`, pc.dim(`pindro run show ${retried.run}`)] : []),
      ...(retried || answer.draft ? [] : [pc.dim(`pindro run retry ${id}`)]),
    ].join('\n');
  if (checked) return `${pc.yellow('!')} Nothing was changed, because the fix did not help: ${checked.words}`;
  if (!tried) return `Fix: ${done}. It cannot be tested beforehand.`;
  const runs = (count: number) => `${count} recorded run${count === 1 ? '' : 's'}`;
  return [
    `Fix: ${done}.`,
    tried.tried === 0
      ? `${pc.yellow('!')} No recorded run could be tested with it.`
      : `${tried.cured > 0 ? pc.green('✓') : pc.yellow('!')} It fixes ${tried.cured} of ${runs(tried.tried)}, tested by replay.`,
    ...tried.left.map(({ run, why }) => `  ${run}  ${why}`),
    pc.dim(`pindro run fix ${id}`),
  ].join('\n');
}

function draftLines(id: string, draft: Answer['draft']): string[] {
  if (!draft) return [];
  const others = draft.others ? ' The draft has other unpublished changes too.' : '';
  return [
    `${pc.yellow('!')} Only the draft of ${draft.flow} has changed. Callers use revision ${draft.live} until you publish.${others}`,
    pc.dim(`pindro run retry ${id}`),
    pc.dim(`pindro run fix ${id} --publish --retry`),
  ];
}
