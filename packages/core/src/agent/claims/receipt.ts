import type { Json } from '../../json/json.js';
import type { AnswerEnd } from '../../models/dialect.js';
import type { CallState, Receipt, ReceiptLine } from '../../trace/receipts/receipt.js';
import type { CallRecord } from '../conversation/conversation.js';
import { admits, claimIn } from './claims.js';

/** So long a line is, in characters. */
const LINE = 200;

/** What stands before a result for the model alone: where it comes from, and who approved the call. */
const NOTES =
  /^(?:\((?:Result from tool server|What follows came from a tool|[^\n()]{1,80} approved this call)[^\n]*\)\n)+/;

/** What a receipt is held against. */
interface Words {
  answer: string;
  end: AnswerEnd;
  /** Whether any tool that it has does anything: what cannot be done is not claimed. */
  canDo: boolean;
  /** Whether something was done earlier in the conversation, of which the answer may speak. */
  didBefore: boolean;
}

/**
 * Returns what the calls of an agent did, and whether its answer says otherwise.
 * @param calls of this question, the oldest first
 * @param words of the answer, and how it ended
 * @returns the receipt
 */
export function receiptOf(calls: readonly CallRecord[], words: Words): Receipt {
  // The work of a delegated agent is part of its own receipt.
  const handed = calls.flatMap(({ receipt: one }) => (one ? [one] : []));
  const own = calls.filter(({ receipt: one }) => !one);
  const well = own.filter(({ state }) => state === 'done');
  const done = [...well.filter(({ reads }) => !reads).map(line), ...handed.flatMap((one) => one.done)];
  const looked = well.filter(({ reads }) => reads).length + handed.reduce((sum, one) => sum + one.looked, 0);
  const left = calls.filter((call, index) => call.state !== 'done' && !isMended(call, calls.slice(index + 1)));
  const open = [...left.map(line), ...handed.flatMap((one) => one.open)];
  const receipt: Receipt = {
    done,
    looked,
    open,
    end: words.end === 'paused' ? 'answer' : words.end,
    contradicts: null,
  };
  return { ...receipt, contradicts: contradiction(receipt, words) };
}

function line({ tool, state, arguments: args, text, run, approval }: CallRecord): ReceiptLine {
  const given = text.replace(NOTES, '');
  const says = given.replace(/\s+/g, ' ').trim();
  return {
    ...{ tool, state, arguments: args, run, says: says.length > LINE ? `${says.slice(0, LINE - 1)}…` : says },
    ...(approval && { approval }),
  };
}

/** A failed call was made good where the same tool did later what it was to do: for the same things, as far as they were named again. */
function isMended(call: CallRecord, later: readonly CallRecord[]): boolean {
  if (call.state !== 'failed') return false;
  return later.some(({ tool, state, arguments: args }) => {
    if (tool !== call.tool || (state !== 'done' && state !== 'waiting')) return false;
    const [before, after] = [fieldsOf(call.arguments), fieldsOf(args)];
    const shared = Object.keys(before).filter((name) => name in after);
    const alike = shared.filter((name) => JSON.stringify(before[name]) === JSON.stringify(after[name]));
    // One argument was corrected, or none could be parsed the first time.
    return shared.length === 0 || alike.length >= shared.length - 1;
  });
}
const fieldsOf = (args: Json): { [name: string]: Json } =>
  typeof args === 'object' && args !== null && !Array.isArray(args) ? args : {};

/** Why the words of an answer are not what happened; null where nothing speaks against them. */
function contradiction({ done, open, looked, end }: Receipt, { answer, canDo, didBefore }: Words): string | null {
  if (end === 'length') return 'The answer was truncated.';
  if (admits(answer)) return null;
  const claim = claimIn(answer);
  if (open.length > 0 && claim !== null) return `The answer says that the work is done, but ${inWords(open)}.`;
  if (open.length > 0 && done.length > 0) return `The answer does not mention that ${inWords(open)}.`;
  // What was looked up, or done before, may be told.
  const isEmpty = open.length === 0 && done.length === 0 && canDo && !didBefore;
  if (isEmpty && (claim === 'own' || (claim === 'said' && looked === 0)))
    return 'The answer says that something was done, but no tool that changes anything was called.';
  return null;
}

const STATES: Record<CallState, string> = {
  done: 'succeeded',
  failed: 'failed',
  refused: 'was rejected',
  unknown: 'has an unknown outcome',
  waiting: 'is still waiting',
};
function inWords(open: readonly ReceiptLine[]): string {
  const all = [...new Set(open.map(({ tool, state }) => `${tool.replaceAll('_', ' ')} ${STATES[state]}`))];
  return all.length > 1 ? `${all.slice(0, -1).join(', ')} and ${all.at(-1)}` : all[0]!;
}
