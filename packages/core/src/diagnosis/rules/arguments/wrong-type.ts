import { detail, failureRule, placeInFlow } from '../../rule.js';

export const wrongType = failureRule({
  code: 'wrong_type',
  about: 'The value of an expression has a type that cannot be used there.',
  todo: 'Convert it, for example with string() or int(), or correct its source.',
  codes: ['config_refused', 'expression_failed', 'condition_not_boolean', 'value_refused'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: detail(failure, 'expression')
      ? `"${detail(failure, 'expression')}" could not be evaluated with the values of this run.`
      : 'The evaluated value does not match the settings of the step.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with'),
  }),
});
