import { type DiagnosisRule, detail, placeInFlow } from '../finding.js';

export const noValue: DiagnosisRule = {
  code: 'no_value',
  about: 'An expression asked for a value that was not there.',
  matches: ({ error }) => error.code === 'no_value',
  explain: (failure) => ({
    title: failure.error.message,
    why: `"${detail(failure, 'expression')}" was filled in while the run went on, and what it names was not in the data.`,
    fix: failure.error.hint,
    place: placeInFlow(failure),
  }),
};
