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
    const when = new Date(failure.span.end ?? failure.span.start).toISOString();
    return {
      title: failure.error.message,
      why: expired
        ? `It was asked for until ${when}, and nobody answered.`
        : `${by || 'Somebody'} said no at ${when}${note ? `: ${note}` : ', without a reason'}.`,
      fix: expired
        ? 'Allow more time, see that those who may answer know of it, or add a step that follows "expired".'
        : 'Nothing, if that was meant. A step can follow its own way when it is refused.',
      place: placeInFlow(failure, trace, expired ? '/with/expires' : '/with'),
      about: [decision || 'refused', detail(failure, 'tool')],
      quotes: [note],
    };
  },
});
