import { detail, failureRule, placeInFlow } from '../../rule.js';

export const circles = failureRule({
  code: 'agent_in_circles',
  about: 'An agent repeated the same call or mistake and was stopped.',
  todo: 'Fix the cause of the failing call, or add to the instructions what to do in this case.',
  codes: ['agent_in_circles'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: 'The results contained nothing new, and the agent continued anyway.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with/instructions'),
    about: [detail(failure, 'tool')],
  }),
});
