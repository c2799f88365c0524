import { PindroError } from '../errors/errors.js';
import { type ModelSettings, priceOf } from '../models/settings.js';
import { milliseconds } from '../text/duration.js';
import { Budget, type Spending } from '../tools/budget.js';
import type { AgentConfig } from './config.js';
import type { Conversation } from './conversation/conversation.js';

/** Taken for the longest answer where nobody said how long one may be, in tokens. */
const LONGEST = 4096;
/** A shorter answer than this is not worth asking for, in tokens. */
const SHORTEST = 16;

/** What an agent may spend in all, within what whoever began it may. */
export const budgetOf = ({ limits }: AgentConfig, above: Budget | undefined): Budget =>
  new Budget(definedOf(limits), above);

const definedOf = ({ tokens, money, calls, runs }: AgentConfig['limits']): Spending => ({
  tokens,
  ...(money !== undefined && { money }),
  ...(calls !== undefined && { calls }),
  ...(runs !== undefined && { runs }),
});

export const timeOf = ({ limits }: AgentConfig): number => milliseconds(limits.time);

/**
 * How long the next answer may be, in tokens, so that no limit is passed whatever it says.
 * @param reads tokens that the model will read
 * @returns null: as long as its connection says
 * @throws round_limit, token_limit, money_limit
 */
export function longestAnswer(
  config: AgentConfig,
  { talk, budget }: { talk: Conversation; budget: Budget },
  settings: ModelSettings,
  reads: number,
): number | null {
  const rounds = config.limits.rounds * (1 + (talk.granted.get('rounds') ?? 0));
  if (talk.rounds >= rounds)
    throw new PindroError('round_limit', { rounds: rounds === 1 ? 'one round' : `${rounds} rounds` });
  const used = talk.usage.input + talk.usage.output;
  const usual = settings.max_tokens ?? LONGEST;
  const left = Math.min(budget.left('tokens') - reads, affordable(budget.left('money'), settings, reads));
  if (left >= usual) return null;
  if (budget.left('tokens') - reads < SHORTEST)
    throw new PindroError(
      'token_limit',
      { used: used + reads, limit: config.limits.tokens },
      { details: { limit: 'tokens', used, reads } },
    );
  if (left < SHORTEST)
    throw new PindroError(
      'money_limit',
      { used: talk.cost, limit: config.limits.money ?? budget.left('money') },
      { details: { limit: 'money' } },
    );
  return Math.floor(left);
}

/** How many tokens may be written for so much money, once what is read is paid. */
function affordable(money: number, settings: ModelSettings, reads: number): number {
  if (!Number.isFinite(money)) return Number.POSITIVE_INFINITY;
  const read = priceOf(settings, { input: reads, output: 0, cached: 0 });
  const each = priceOf(settings, { input: 0, output: 1, cached: 0 });
  // Where no price is known nothing can be counted but what tools cost.
  if (read === null || each === null) return money > 0 ? Number.POSITIVE_INFINITY : 0;
  if (each === 0) return read <= money ? Number.POSITIVE_INFINITY : 0;
  return Math.floor((money - read) / each);
}
