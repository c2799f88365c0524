import { detail, failureRule, placeInFlow } from '../../rule.js';

export const notApproved = failureRule({
  code: 'not_approved',
  about: 'Somebody rejected the request, or nobody answered in time.',
  todo: 'Ask them, allow more time, or add a branch for a rejection.',
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
        ? `Nobody answered before the request expired at ${when}.`
        : `${by || 'Somebody'} rejected it at ${when}${note ? `: ${note}` : ', without a reason'}`,
      fix: expired
        ? 'Allow more time, make sure that the approvers know of it, or add a step after "expired".'
        : 'No fix needed if that was intended. A step can follow the branch for a rejection.',
      place: placeInFlow(failure, trace, expired ? '/with/expires' : '/with'),
      about: [decision || 'refused', detail(failure, 'tool')],
      quotes: [note],
    };
  },
});
