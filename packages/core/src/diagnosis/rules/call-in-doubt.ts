import { detail, failureRule, placeInFlow } from '../rule.js';

export const callInDoubt = failureRule({
  code: 'call_in_doubt',
  about: 'The service was stopped while a tool was called, and nobody knows whether it took effect.',
  todo: 'Look at the other side whether it happened.',
  codes: ['call_in_doubt'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: 'The call had begun, and its answer never came. It was not made again.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with/toolbox'),
    about: [detail(failure, 'tool')],
  }),
});
