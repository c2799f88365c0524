import { detail, failureRule, placeInFlow } from '../rule.js';

export const notApproved = failureRule({
  code: 'not_approved',
  about: 'Somebody refused what they were asked for, or nobody answered in time.',
  todo: 'Ask them; give more time, or add a way for when it is refused.',
  codes: ['not_approved', 'call_not_approved'],
  explain: (failure, trace) => {
    const decision = detail(failure, 'decision');
    const by = detail(failure, 'by');
    const note = detail(failure, 'note');
    const expired = decision === 'expired';
    return {
      title: failure.error.message,
      why: expired
        ? 'Nobody answered within the time that was set.'
        : `${by || 'Somebody'} said no${note ? `: ${note}` : ' without a reason'}.`,
      fix: expired
        ? 'Ask in time, or allow more of it.'
        : 'Nothing, if that was meant. A step can follow its own way when it is refused.',
      place: placeInFlow(failure, trace, '/with'),
      about: [decision || 'refused', detail(failure, 'tool')],
      quotes: [note],
    };
  },
});
