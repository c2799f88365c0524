import { type DiagnosisRule, detail } from '../finding.js';

export const notAuthorised: DiagnosisRule = {
  code: 'not_authorised',
  about: 'A tool server, model or web address refused the credential.',
  matches: ({ error }) =>
    error.code === 'server_wants_key' ||
    (['model_refused', 'http_status'].includes(error.code) && [401, 403].includes(Number(error.details?.status))),
  explain: (failure) => {
    const server = detail(failure, 'server');
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
