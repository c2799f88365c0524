import { attribute, type Finding, type Span } from '@pindro/core';

/** What was spent in vain: rounds of models, the tokens they read and wrote, and money in the currency of the prices. */
export interface RetryCost {
  rounds: number;
  tokens: number;
  money: number;
}

const tokensOf = ({ attributes }: Span) =>
  (Number(attributes[attribute.inputTokens]) || 0) + (Number(attributes[attribute.outputTokens]) || 0);
const sum = (numbers: number[]) => numbers.reduce((all, one) => all + one, 0);

/** Cost of a problem: for an agent that recovered, the rounds before it; otherwise the whole run. */
export function retryCostOf(finding: Pick<Finding, 'severity' | 'span' | 'times'>, spans: readonly Span[]): RetryCost {
  const models = spans.filter(({ work }) => work === 'model');
  const agents = spans.filter(({ work }) => work === 'agent');
  if (finding.severity !== 'warning')
    return {
      rounds: models.length,
      tokens: sum(models.map(tokensOf)),
      money: sum(agents.map(({ attributes }) => Number(attributes[attribute.cost]) || 0)),
    };
  const at = spans.find(({ spanId }) => spanId === finding.span);
  const agent = at && agents.find(({ spanId }) => spanId === at.parentId);
  // The round that requested the failing call is the last one before it.
  const own = agent ? models.filter(({ parentId }) => parentId === agent.spanId) : [];
  const round = own.findLast(({ start }) => start <= at!.start);
  if (!agent || !round) return { rounds: 0, tokens: 0, money: 0 };
  const rounds = Math.min(finding.times, own.length);
  const tokens = tokensOf(round) * rounds;
  const cost = Number(agent.attributes[attribute.cost]) || 0;
  return { rounds, tokens, money: cost * (tokens / Math.max(1, sum(own.map(tokensOf)))) };
}
