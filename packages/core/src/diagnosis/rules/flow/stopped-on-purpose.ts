import { failureRule, placeInFlow } from '../../rule.js';

export const stopped = failureRule({
  code: 'stopped_on_purpose',
  about: 'A flow stopped as failed at a stop step.',
  todo: 'No fix needed if the message is right.',
  codes: ['stopped_as_failed'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: failure.error.hint,
    fix: 'If it was not intended, check what led to it.',
    place: placeInFlow(failure, trace),
    about: [trace.stepOf(failure.span)?.name],
  }),
});
