import { detail, failureRule } from '../../rule.js';

export const secretMissing = failureRule({
  code: 'credential_unusable',
  about: 'A credential has no value, belongs to another address, or has a kind that cannot be sent.',
  todo: 'Fix the credential: its source, its addresses, or its kind.',
  codes: ['secret_missing', 'credential_elsewhere', 'credential_unfit', 'secret_unsealable'],
  explain: (failure) => {
    const credential = detail(failure, 'credential');
    return {
      title: failure.error.message,
      why: 'The step needs the credential. Nothing was sent without it.',
      fix: failure.error.hint,
      place: credential ? { credential } : null,
    };
  },
});
