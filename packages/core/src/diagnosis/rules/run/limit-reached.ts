import type { ErrorCode } from '../../../errors/errors.js';
import { failureRule, placeInFlow } from '../../rule.js';

const WHICH: Partial<Record<ErrorCode, string>> = {
  round_limit: 'rounds',
  token_limit: 'tokens',
  money_limit: 'money',
  call_limit: 'calls',
  run_limit: 'runs',
};

export const limits = failureRule({
  code: 'limit_reached',
  about: 'An agent reached its limit of rounds, tokens, cost, calls or runs before it had an answer.',
  todo: 'Check what used them up. Raise the limit if that was right.',
  codes: ['round_limit', 'token_limit', 'money_limit', 'call_limit', 'run_limit', 'tool_calls_used'],
  explain: (failure, trace) => {
    const which = WHICH[failure.error.code];
    const place = placeInFlow(failure, trace, which ? `/with/limits/${which}` : '/with/toolbox');
    const step = trace.stepOf(failure.span);
    const written = step ? trace.written(step).limits : undefined;
    const now =
      which && typeof written === 'object' && written !== null
        ? (written as Record<string, unknown>)[which]
        : undefined;
    return {
      title: failure.error.message,
      why:
        which === 'rounds'
          ? 'The model kept calling tools instead of answering.'
          : 'Nothing is requested or called beyond a limit.',
      fix: failure.error.hint,
      place,
      about: [failure.error.code],
      ...(typeof now === 'number' &&
        'flow' in place && { cure: { do: 'change', ...place, from: now, to: now * 2 } as const }),
    };
  },
});
