import { detail, failureRule } from '../../rule.js';

export const modelUnreachable = failureRule({
  code: 'model_unreachable',
  about: 'A model did not answer, sent an answer that cannot be parsed, or disconnected.',
  todo: 'Test the connection. Add a fallback if it happens often.',
  codes: ['model_unreachable', 'model_garbage'],
  explain: (failure) => {
    const model = detail(failure, 'model');
    return {
      title: failure.error.message,
      why: `The agent cannot continue without an answer from ${detail(failure, 'address') || 'its model'}.`,
      fix: `${failure.error.hint} Then test the connection with "pindro model test ${model}".`,
      place: { model },
    };
  },
});
