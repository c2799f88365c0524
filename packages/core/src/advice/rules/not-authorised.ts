import { type DiagnosisRule, detail } from '../finding.js';

export const notAuthorised: DiagnosisRule = {
  code: 'not_authorised',
  about: 'A tool server, model or web address refused the credential.',
  matches: ({ error }) =>
    ['server_wants_key', 'caller_without_credential', 'own_credential_refused'].includes(error.code) ||
    (['model_refused', 'http_status'].includes(error.code) && [401, 403].includes(Number(error.details?.status))),
  explain: (failure) => {
    const server = detail(failure, 'server');
    // The caller's own credential hangs on the key, not on the server.
    if (failure.error.code !== 'server_wants_key' && server && failure.error.code.includes('credential'))
      return {
        title: failure.error.message,
        why: 'This tool is called on behalf of whoever calls, with a credential of their own.',
        fix: failure.error.hint ?? '',
        place: { server },
      };
    const model = detail(failure, 'model');
    const who = server ? `Tool server "${server}"` : model ? `Model connection "${model}"` : detail(failure, 'address');
    return {
      title: `${who} did not accept the credential`,
      why: failure.error.message,
      fix:
        server || model
          ? `Give ${who.charAt(0).toLowerCase()}${who.slice(1)} a credential that is valid there.`
          : 'Choose a credential that is valid there.',
      place: server ? { server } : model ? { model } : { flow: failure.flow, at: failure.error.at ?? '' },
    };
  },
};
