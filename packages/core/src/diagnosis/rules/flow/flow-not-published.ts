import { detail, failureRule, placeInFlow } from '../../rule.js';

export const notPublished = failureRule({
  code: 'flow_not_published',
  about: 'A called flow has no published revision, or does not exist.',
  todo: 'Publish it.',
  codes: ['flow_not_published', 'flow_broken'],
  explain: (failure, trace) => {
    const flow = detail(failure, 'flow') || failure.flow;
    return {
      title: failure.error.message,
      why: 'Callers use the published revision, never the draft.',
      fix: failure.error.hint,
      place: detail(failure, 'flow') ? { flow, at: '' } : placeInFlow(failure, trace, '/with/flow'),
      about: [flow],
      ...(failure.error.code === 'flow_not_published' && { cure: { do: 'publish', flow } as const }),
    };
  },
});
