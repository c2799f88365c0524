import type { CallState, Receipt, ReceiptLine } from './receipt.js';

/** How the state of a call is told in a receipt. */
export const STATE_WORDS: Record<CallState, string> = {
  done: 'done',
  failed: 'failed',
  refused: 'refused',
  unknown: 'not known whether it happened',
  waiting: 'still waits',
};

/** A receipt in words, for whoever reads text alone; empty where everything went as it is told. */
export function receiptWords({ done, open, contradicts, end }: Receipt): string {
  if (open.length === 0 && contradicts === null) return '';
  const line = ({ tool, state, says }: ReceiptLine) =>
    `- ${tool.replaceAll('_', ' ')}: ${STATE_WORDS[state]} (${says})`;
  return [
    ...(contradicts ? [contradicts] : []),
    ...(end === 'refusal' ? ['The model declined to answer.'] : []),
    'What was done, by the record:',
    ...(done.length === 0 && open.every(({ state }) => state !== 'unknown') ? ['- nothing that has an effect'] : []),
    ...[...done, ...open].map(line),
  ].join('\n');
}
