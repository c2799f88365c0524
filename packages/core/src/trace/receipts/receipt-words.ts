import type { ApprovalNote, CallState, Receipt, ReceiptLine } from './receipt.js';

/** Labels of call states in a receipt. */
export const STATE_WORDS: Record<CallState, string> = {
  done: 'done',
  failed: 'failed',
  refused: 'refused',
  unknown: 'outcome unknown',
  waiting: 'is still waiting',
};

/**
 * Describes who approved a call and what they changed: `approved by ines, changed weight_kg from 300 to 250, note:
 * wind`.
 * @param note of an approved call
 * @returns one clause without a capital or full stop
 */
export function approvalWords({ by, note, changed }: ApprovalNote): string {
  const changes = Object.entries(changed).map(
    ([name, { from, to }]) => `changed ${name} from ${JSON.stringify(from)} to ${JSON.stringify(to)}`,
  );
  return [`approved by ${by}`, ...changes, ...(note === '' ? [] : [`note: ${note}`])].join(', ');
}

/**
 * Returns a receipt as text; empty if the answer matches the calls.
 * @param receipt of an agent or run
 * @returns lines of text
 */
export function receiptWords({ done, open, contradicts, end }: Receipt): string {
  if (open.length === 0 && contradicts === null) return '';
  const line = ({ tool, state, says, approval }: ReceiptLine) =>
    `- ${tool.replaceAll('_', ' ')}: ${STATE_WORDS[state]} (${says})${approval ? `, ${approvalWords(approval)}` : ''}`;
  return [
    ...(contradicts ? [contradicts] : []),
    ...(end === 'refusal' ? ['The model declined to answer.'] : []),
    'Done, according to the record:',
    ...(done.length === 0 && open.every(({ state }) => state !== 'unknown') ? ['- nothing with side effects'] : []),
    ...[...done, ...open].map(line),
  ].join('\n');
}
