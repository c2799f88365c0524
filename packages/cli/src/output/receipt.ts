import { approvalWords, type Receipt, type ReceiptLine, STATE_WORDS } from '@pindro/core/browser';
import pc from 'picocolors';
import { brief } from './table.js';

const MARKS: Record<ReceiptLine['state'], string> = {
  done: pc.green('✓'),
  failed: pc.red('✗'),
  refused: pc.red('✗'),
  unknown: pc.yellow('?'),
  waiting: pc.yellow('○'),
};

/** What an agent did, by its calls and not by its words; nothing where there is nothing to tell. */
export function showReceipt(receipt: Receipt | null): string[] {
  if (!receipt) return [];
  const { done, open, looked, contradicts } = receipt;
  const line = ({ tool, state, says, approval }: ReceiptLine) =>
    `  ${MARKS[state]} ${tool.replaceAll('_', ' ')} ${pc.dim(`${state === 'done' ? '' : `${STATE_WORDS[state]}: `}${brief(says, 140)}`)}${approval ? pc.dim(` ${approvalWords(approval)}`) : ''}`;
  if (done.length === 0 && open.length === 0 && contradicts === null) return [];
  return [
    ...(contradicts ? [`${pc.yellow('!')} ${pc.bold(contradicts)}`] : []),
    pc.dim(`receipt${looked > 0 ? `, plus ${looked} read-only call${looked === 1 ? '' : 's'}` : ''}`),
    ...(done.length + open.length > 0 ? [...open, ...done].map(line) : ['  – nothing with side effects']),
    '',
  ];
}
