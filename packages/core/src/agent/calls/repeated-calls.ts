import { PindroError } from '../../errors/errors.js';
import type { Json } from '../../json/json.js';
import { canonical } from '../../json/json.js';
import type { ToolCall } from '../../models/dialect.js';
import type { CallRecord } from '../conversation/conversation.js';

/** The same call with the same result is made so often; what asks for it once more is not called again. */
const SAME = 3;
/** So often a model may be told of the same mistake before it is stopped. */
const TOLD = 3;

const signature = (tool: string, args: Json) => `${tool} ${canonical(args)}`;

/**
 * Returns a message to a model that repeats a call; null if the call may be made.
 * @param earlier calls of this message, oldest first
 * @throws agent_in_circles after repeated messages
 */
export function circle(call: ToolCall, earlier: readonly CallRecord[]): string | null {
  const own = signature(call.name, call.arguments);
  const same = earlier.filter(({ tool, arguments: args }) => signature(tool, args) === own);
  const made = same.filter(({ code }) => code !== 'agent_in_circles');
  const last = made.at(-1);
  if (!last || made.filter(({ text }) => text === last.text).length < SAME) return null;
  const refused = same.length - made.length;
  if (refused >= TOLD)
    throw stuck(`it keeps calling ${call.name} with the same arguments`, {
      tool: call.name,
      times: same.length,
    });
  return `You have made this exact call ${made.length} times with the same result each time. It is not made again. Use that result, or do something else.`;
}

/** @throws agent_in_circles where the same mistake was made too often in a row */
export function requireLearning(calls: readonly CallRecord[]): void {
  const wrong = calls.slice(-TOLD - 1);
  if (wrong.length <= TOLD) return;
  if (wrong.every(({ code }) => code === 'tool_unknown')) {
    const names = [...new Set(wrong.map(({ tool }) => tool))].join(', ');
    throw stuck(`it calls tools that it does not have: ${names}`, { tools: names });
  }
  const [first] = wrong;
  const isSame = wrong.every(
    ({ code, tool, text }) => code === 'arguments_refused' && tool === first!.tool && text === first!.text,
  );
  if (isSame) throw stuck(`the arguments of ${first!.tool} remain invalid: ${first!.text}`, { tool: first!.tool });
}

const stuck = (why: string, details: { [key: string]: string | number }) =>
  new PindroError('agent_in_circles', { why }, { details });
