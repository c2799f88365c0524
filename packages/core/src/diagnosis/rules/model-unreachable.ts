import { detail, failureRule } from '../rule.js';

export const modelUnreachable = failureRule({
  code: 'model_unreachable',
  about: 'The language model did not answer, sent what cannot be read, or broke off.',
  todo: 'Test the connection; name a fallback where it happens often.',
  codes: ['model_unreachable', 'model_garbage'],
  explain: (failure) => {
    const model = detail(failure, 'model');
    return {
      title: failure.error.message,
      why: `The agent could not go on without an answer from ${detail(failure, 'address') || 'its model'}.`,
      fix: `${failure.error.hint} Then test the connection with "pindro model test ${model}".`,
      place: { model },
    };
  },
});
