import { detail, failureRule } from '../rule.js';

export const callerCredential = failureRule({
  code: 'caller_credential',
  about: "A tool is called with the caller's own credential, and the caller has none, or one that is refused.",
  todo: 'Give the access key a credential for that server, or call it with the credential of the server.',
  codes: ['caller_without_credential', 'own_credential_refused', 'program_is_shared'],
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: 'This tool is called on behalf of whoever calls, with a credential of their own.',
      fix: failure.error.hint,
      place: { server },
    };
  },
});
