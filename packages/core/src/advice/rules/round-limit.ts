import { type DiagnosisRule, stepOf } from '../finding.js';

export const roundLimit: DiagnosisRule = {
  code: 'round_limit',
  about: 'An agent used up its rounds or tokens before it had an answer.',
  matches: ({ error }) => error.code === 'round_limit' || error.code === 'token_limit',
  explain: (failure) => ({
    title: failure.error.message,
    why: 'The model kept calling tools instead of answering.',
    fix: failure.error.hint,
    place: {
      flow: failure.flow,
      at: `${stepOf(failure)?.at ?? ''}/with/limits/${failure.error.code === 'round_limit' ? 'rounds' : 'tokens'}`,
    },
  }),
};
