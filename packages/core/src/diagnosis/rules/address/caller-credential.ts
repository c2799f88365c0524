import { detail, failureRule } from '../../rule.js';

export const callerCredential = failureRule({
  code: 'caller_credential',
  about: "A tool uses the caller's own credential, and the caller has none, or it was rejected.",
  todo: "Add a credential for that server to the access key, or use the server's credential.",
  codes: ['caller_without_credential', 'own_credential_refused', 'program_is_shared'],
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: "This tool is called on behalf of the caller, with the caller's own credential.",
      fix: failure.error.hint,
      place: { server },
    };
  },
});
