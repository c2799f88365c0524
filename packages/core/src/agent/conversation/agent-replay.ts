import { PindroError } from '../../errors/errors.js';
import { canonical, type Json, type JsonObject } from '../../json/json.js';
import type { AgentEntry, CallRecord } from './conversation.js';

/** How an agent repeats its work from a record: earlier events and recorded results. Plain data. */
export interface AgentReplay {
  /** The conversation up to where it is done again, beginning with what was asked. */
  before: AgentEntry[];
  /** What calls gave: in place of making them again. */
  answers: CallRecord[];
  /** What the tools of these names give, whatever they are asked. */
  instead?: { [tool: string]: Json };
  /** Whether what is not in the record may be called for real, also where that makes a difference. */
  live: boolean;
}

/**
 * Prepares an agent to work again from a record, up to a round.
 * @param entries of the conversation in the journal
 * @param round from this round of the model on, 1 is the first
 * @param more whether later rounds are asked of the model, and what replaces results
 * @returns null where there was none such
 */
export function replayAgent(
  entries: readonly AgentEntry[],
  round: number,
  more: Pick<AgentReplay, 'live' | 'instead'>,
): AgentReplay | null {
  let seen = 0;
  const at = entries.findIndex((entry) => entry.is === 'answered' && ++seen === round);
  if (at < 0 || entries[0]?.is !== 'begun') return null;
  const answers = entries.flatMap((entry) => (entry.is === 'result' ? [entry.result] : []));
  return { before: entries.slice(0, at), answers, ...more };
}

/** Gives what is in the record in place of calls, each as often as it was made. */
export class ReplayedTools {
  readonly #answers = new Map<string, CallRecord[]>();

  constructor(private readonly rehearsal: AgentReplay) {
    const done = new Set(rehearsal.before.flatMap((entry) => (entry.is === 'result' ? [entry.result.call] : [])));
    for (const answer of rehearsal.answers) {
      const key = keyOf(answer.tool, answer.arguments);
      // What was called before is a second choice: the same question may be asked again.
      const list = this.#answers.get(key) ?? [];
      if (done.has(answer.call)) list.push(answer);
      else list.unshift(answer);
      this.#answers.set(key, list);
    }
  }

  /** What stands before, with what is asked now in place of what was asked then. */
  before(message: string): AgentEntry[] {
    return this.rehearsal.before.map((entry) => {
      if (entry.is !== 'begun') return entry;
      const last = entry.turns.findLastIndex(({ role }) => role === 'user');
      return { ...entry, turns: entry.turns.map((turn, at) => (at === last ? { ...turn, text: message } : turn)) };
    });
  }

  /**
   * Returns the recorded result of a call, or null if the call is made.
   * @param reads whether the tool is read-only
   * @throws not_in_record if it would repeat a side effect
   */
  answer(tool: string, given: JsonObject, reads: boolean): Pick<CallRecord, 'state' | 'text' | 'data'> | null {
    const { instead = {}, live } = this.rehearsal;
    if (Object.hasOwn(instead, tool)) {
      const data = instead[tool]!;
      return { state: 'done', text: typeof data === 'string' ? data : JSON.stringify(data), data };
    }
    const list = this.#answers.get(keyOf(tool, given));
    const found = list && (list.length > 1 ? list.shift() : list[0]);
    if (found) return found;
    if (reads || live) return null;
    throw new PindroError('not_in_record', { tool }, { details: { tool } });
  }
}

const keyOf = (tool: string, given: Json) => `${tool} ${canonical(given)}`;
