import type { Turn } from '../../models/dialect.js';
import { estimateTokens } from '../../tools/tokens.js';

/** The part of a conversation that is sent, and what was omitted so that it fits. */
export interface Window {
  turns: Turn[];
  /** What was omitted. */
  left: string[];
}

/** Placeholder of an omitted result. */
const LEFT_OUT = '(An earlier result, omitted because the conversation is long. Call the tool again if you need it.)';
/** About how many tokens a picture is. */
const A_PICTURE = 1000;
/** Tokens of a turn in addition to its text. */
const AROUND = 4;

/** Turns are never changed, and are counted in every round. */
const counted = new WeakMap<Turn, number>();

/** About how many tokens a turn is. */
export function tokensOf(turn: Turn): number {
  let tokens = counted.get(turn);
  if (tokens === undefined) counted.set(turn, (tokens = AROUND + estimateTokens(turn.text) + comparisonText(turn)));
  return tokens;
}

function comparisonText(turn: Turn): number {
  if (turn.role === 'tool') return (turn.pictures ?? []).length * A_PICTURE;
  if (turn.role !== 'assistant') return 0;
  return turn.calls.reduce((sum, call) => sum + estimateTokens(call.name) + estimateTokens(call.arguments), 0);
}

const total = (turns: readonly Turn[]) => turns.reduce((sum, turn) => sum + tokensOf(turn), 0);

/** Exchanges: each begins with what the user said. */
function exchanges(turns: readonly Turn[]): Turn[][] {
  const out: Turn[][] = [];
  for (const turn of turns)
    if (turn.role === 'user' || out.length === 0) out.push([turn]);
    else out.at(-1)!.push(turn);
  return out;
}

/**
 * Shortens a conversation to a number of tokens. Drops results of earlier exchanges first, then earlier exchanges,
 * then older results of the current one. The current question and the latest answer always remain.
 * @param turns of the conversation, oldest first
 * @param most tokens that all of it may have
 * @returns turns that fit, and what was left out
 */
export function fitTurns(turns: readonly Turn[], most: number): Window {
  const left: string[] = [];
  let kept = [...turns];
  let over = total(kept) - most;
  if (over <= 0) return { turns: kept, left };
  const all = exchanges(kept);
  const now = all.pop() ?? [];
  let before = all;
  const emptied = (list: Turn[]): Turn[] =>
    list.map((turn) => {
      if (over <= 0 || turn.role !== 'tool' || turn.text === LEFT_OUT) return turn;
      const shorter: Turn = { ...turn, text: LEFT_OUT };
      delete (shorter as { pictures?: unknown }).pictures;
      const won = tokensOf(turn) - tokensOf(shorter);
      if (won <= 0) return turn;
      over -= won;
      return shorter;
    });
  const results = before.flat().filter(({ role }) => role === 'tool').length;
  before = before.map(emptied);
  if (results > 0) left.push('results of earlier turns');
  let dropped = 0;
  while (over > 0 && before.length > 0) {
    over -= total(before.shift()!);
    dropped++;
  }
  if (dropped > 0) left.push(`${dropped} earlier turn${dropped === 1 ? '' : 's'}`);
  // The newest results are what the model continues with.
  const last = now.findLastIndex(({ role }) => role === 'assistant');
  if (over > 0 && last > 0) {
    const older = emptied(now.slice(0, last));
    if (older.some((turn, index) => turn !== now[index])) left.push('older results of this turn');
    kept = [...before.flat(), ...older, ...now.slice(last)];
  } else kept = [...before.flat(), ...now];
  if (over > 0) {
    kept = shortened(kept, over);
    left.push('the ends of the newest results');
  }
  return { turns: kept, left };
}

/** Cuts the longest results, where even the newest do not fit. */
function shortened(turns: readonly Turn[], over: number): Turn[] {
  const results = turns.filter((turn) => turn.role === 'tool');
  const tokens = results.reduce((sum, turn) => sum + tokensOf(turn), 0);
  const share = Math.max(0.02, (tokens - over) / Math.max(1, tokens)) * 0.9;
  return turns.map((turn) => {
    if (turn.role !== 'tool' || turn.text.length < 200) return turn;
    const length = Math.max(100, Math.floor(turn.text.length * share));
    return length >= turn.text.length
      ? turn
      : {
          ...turn,
          text: `${turn.text.slice(0, length)}\n(The remaining ${turn.text.length - length} characters are omitted.)`,
        };
  });
}

/**
 * Returns the newest exchanges of a conversation. Each starts with a user message.
 * @param turns of the conversation, oldest first
 * @param count how many exchanges to return
 * @returns the newest turns, oldest first
 */
export function newest(turns: readonly Turn[], count: number): Turn[] {
  return count <= 0
    ? []
    : exchanges(turns.filter(({ role }) => role !== 'system'))
        .slice(-count)
        .flat();
}
