import { failureRule, placeInFlow } from '../../rule.js';

/** Stands last: it takes whatever no other rule knows. */
export const stepFailed = failureRule({
  code: 'step_failed',
  about: 'A step failed for a reason of its own.',
  todo: 'Check the input of the step.',
  codes: [],
  explain: (failure, trace) => {
    const step = trace.stepOf(failure.span);
    return {
      title: step
        ? `Step "${step.name}" of ${failure.flow}: ${failure.error.message}`
        : `${failure.flow}: ${failure.error.message}`,
      why: failure.error.message,
      fix: failure.error.hint,
      place: placeInFlow(failure, trace),
      about: [failure.error.code, step?.name],
    };
  },
});
