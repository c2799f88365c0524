import { type DiagnosisRule, detail } from '../finding.js';

export const modelUnreachable: DiagnosisRule = {
  code: 'model_unreachable',
  about: 'The language model did not answer, refused, or sent what cannot be read.',
  matches: ({ error }) => ['model_unreachable', 'model_refused', 'model_garbage'].includes(error.code),
  explain: (failure) => ({
    title: failure.error.message,
    why: `The agent could not go on without an answer from ${detail(failure, 'address') || 'its model'}.`,
    fix: `${failure.error.hint} Then test the connection with "pindro model test ${detail(failure, 'model')}".`,
    place: { model: detail(failure, 'model') },
  }),
};
