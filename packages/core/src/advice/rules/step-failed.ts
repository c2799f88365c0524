import { type DiagnosisRule, placeInFlow, stepOf } from '../finding.js';

/** Stands last: it takes whatever no other rule knows. */
export const stepFailed: DiagnosisRule = {
  code: 'step_failed',
  about: 'A step failed for a reason of its own.',
  matches: () => true,
  explain: (failure) => {
    const step = stepOf(failure);
    return {
      title: step
        ? `Step "${step.name}" of ${failure.flow}: ${failure.error.message}`
        : `${failure.flow}: ${failure.error.message}`,
      why: failure.error.message,
      fix: failure.error.hint,
      place: placeInFlow(failure),
    };
  },
};
