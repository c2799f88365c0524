import { failureRule, placeInFlow } from '../rule.js';

export const stopped = failureRule({
  code: 'stopped_on_purpose',
  about: 'A flow ended itself as failed, because its builder wanted that.',
  todo: 'Nothing, if its message is right.',
  codes: ['stopped_as_failed'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: failure.error.hint,
    fix: 'Look at what led there, if it was not meant.',
    place: placeInFlow(failure, trace),
    about: [trace.stepOf(failure.span)?.name],
  }),
});
