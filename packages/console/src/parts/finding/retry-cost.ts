import type { ProblemSummary } from '@pindro/contract/light';
import { plural } from '../../state/format.js';

/** Describes the cost of retries of a problem; empty without any. */
export const retryCostWords = ({ rounds, tokens, money }: ProblemSummary['waste']): string =>
  [
    ...(rounds > 0 ? [plural(rounds, 'round')] : []),
    ...(tokens > 0 ? [`${tokens.toLocaleString()} tokens`] : []),
    ...(money > 0 ? [`${Number(money.toPrecision(2))} cost`] : []),
  ].join(', ');
