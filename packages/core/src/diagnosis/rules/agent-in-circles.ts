import { detail, failureRule, placeInFlow } from '../rule.js';

export const circles = failureRule({
  code: 'agent_in_circles',
  about: 'An agent made the same call, or the same mistake, again and again, and was stopped.',
  todo: 'Mend what the call keeps failing for; say in the instructions what to do then.',
  codes: ['agent_in_circles'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: 'What came back told it nothing new, and it went on all the same.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with/instructions'),
    about: [detail(failure, 'tool')],
  }),
});
