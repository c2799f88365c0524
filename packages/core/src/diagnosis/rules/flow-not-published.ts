import { detail, failureRule, placeInFlow } from '../rule.js';

export const notPublished = failureRule({
  code: 'flow_not_published',
  about: 'A flow that is called has no published revision, or is not there.',
  todo: 'Publish it.',
  codes: ['flow_not_published', 'flow_broken'],
  explain: (failure, trace) => {
    const flow = detail(failure, 'flow') || failure.flow;
    return {
      title: failure.error.message,
      why: 'Whatever is live calls what is published, never a draft.',
      fix: failure.error.hint,
      place: detail(failure, 'flow') ? { flow, at: '' } : placeInFlow(failure, trace, '/with/flow'),
      about: [flow],
      ...(failure.error.code === 'flow_not_published' && { cure: { do: 'publish', flow } as const }),
    };
  },
});
