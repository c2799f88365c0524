import { detail, failureRule, placeInFlow } from '../../rule.js';

export const callInDoubt = failureRule({
  code: 'call_in_doubt',
  about: 'The service stopped during a tool call, and the outcome is unknown.',
  todo: 'Check on the other side whether it happened.',
  codes: ['call_in_doubt'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: 'The call started, and no response was received. It was not repeated.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with/toolbox'),
    about: [detail(failure, 'tool')],
  }),
});
