import { humanDuration } from '../../duration.js';
import { type DiagnosisRule, placeInFlow } from '../finding.js';

export const timedOut: DiagnosisRule = {
  code: 'timed_out',
  about: 'A step, a call or an agent took longer than it may.',
  matches: ({ error }) => error.code === 'timed_out',
  explain: (failure) => ({
    title: failure.error.message,
    why: `It was given up after ${humanDuration((failure.span.end ?? failure.span.start) - failure.span.start)}.`,
    fix: failure.error.hint,
    place: placeInFlow(failure),
  }),
};
