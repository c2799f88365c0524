import { detail, failureRule, placeInFlow } from '../../rule.js';

export const tableRefused = failureRule({
  code: 'table_refused',
  about: 'A table rejected a change.',
  todo: 'Correct the value, or the column.',
  codes: ['table_refused'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: 'Nothing was changed: a table change applies as a whole or not at all.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with'),
    about: [detail(failure, 'table'), detail(failure, 'column')],
  }),
});
