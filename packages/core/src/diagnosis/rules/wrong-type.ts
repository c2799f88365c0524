import { detail, failureRule, placeInFlow } from '../rule.js';

export const wrongType = failureRule({
  code: 'wrong_type',
  about: 'What an expression came to is of a type that cannot be used there.',
  todo: 'Convert it, for example with string() or int(), or mend where it comes from.',
  codes: ['config_refused', 'expression_failed', 'condition_not_boolean', 'value_refused'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: detail(failure, 'expression')
      ? `"${detail(failure, 'expression')}" could not be worked out with the values of this run.`
      : 'What was filled in is not what the step takes.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with'),
  }),
});
