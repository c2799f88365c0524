import type { Facts } from '../facts.js';
import type { Place } from '../finding.js';
import type { Failure, IndexedTrace } from '../indexed.js';
import { detail, failureRule, firstWords, placeInFlow } from '../rule.js';

/** Who refused, what goes along there, and what it says it wants. */
function refuser(
  failure: Failure,
  trace: IndexedTrace,
  facts: Facts,
): { who: string; place: Place; credential: string | null; odd: string } {
  const server = detail(failure, 'server');
  const model = detail(failure, 'model');
  if (server || model) {
    const fact = server ? facts.get({ of: 'server', name: server }) : facts.get({ of: 'model', name: model });
    const credential = fact?.credential ?? null;
    return {
      who: server ? `Tool server "${server}"` : `Model connection "${model}"`,
      place: credential !== null ? { credential } : server ? { server } : { model },
      ...{ credential, odd: fact?.secretOdd ?? '' },
    };
  }
  return {
    who: detail(failure, 'address'),
    place: placeInFlow(failure, trace),
    credential: null,
    odd: '',
  };
}

export const credentialRefused = failureRule({
  code: 'not_authorised',
  about: 'A tool server, model or web address refused the credential that went along, or got none.',
  todo: 'Compare what goes along with what the other side says it wants; replace the secret or its form.',
  codes: ['server_wants_key', 'model_refused', 'http_status'],
  fits: ({ error }) =>
    error.code === 'server_wants_key' ||
    (error.code === 'model_refused'
      ? error.details?.kind === 'key'
      : [401, 403].includes(Number(error.details?.status))),
  needs: (failure) => {
    const server = detail(failure, 'server');
    const model = detail(failure, 'model');
    return server ? [{ of: 'server', name: server }] : model ? [{ of: 'model', name: model }] : [];
  },
  explain: (failure, trace, facts) => {
    const { who, place, credential, odd } = refuser(failure, trace, facts);
    const wants = detail(failure, 'wants');
    const body = firstWords(detail(failure, 'body'));
    const status = detail(failure, 'status') || '401';
    const sent = credential ? `credential "${credential}" went along` : 'no credential of Pindro went along';
    return {
      title: odd
        ? `${who} did not accept the credential "${credential}": ${odd}`
        : credential
          ? `${who} did not accept the credential "${credential}"`
          : `${who} wants a credential, and gets none`,
      why: `It answered ${status}; ${sent}.${wants ? ` It says it wants ${wants}.` : ''}`,
      fix: odd
        ? 'Save the secret again without what does not belong to it.'
        : credential
          ? 'Replace the secret by one that is valid there, in the form that it wants.'
          : 'Add a credential that is valid there, and choose it.',
      place,
      quotes: [wants, body],
    };
  },
});
