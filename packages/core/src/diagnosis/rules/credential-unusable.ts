import { detail, failureRule } from '../rule.js';

export const secretMissing = failureRule({
  code: 'credential_unusable',
  about: 'A credential has no value now, is kept for another address, or is of a kind that cannot go along.',
  todo: 'Mend the credential: its source, its addresses, or its kind.',
  codes: ['secret_missing', 'credential_elsewhere', 'credential_unfit', 'secret_unsealable'],
  explain: (failure) => {
    const credential = detail(failure, 'credential');
    return {
      title: failure.error.message,
      why: 'The work needs it, and nothing was sent without it.',
      fix: failure.error.hint,
      place: credential ? { credential } : null,
    };
  },
});
