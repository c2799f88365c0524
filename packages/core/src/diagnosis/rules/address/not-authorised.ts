import { type CredentialForm, formWords, isSameForm, wantedForm } from '../../expected-credential-form.js';
import type { CredentialFact, Facts, Need } from '../../facts.js';
import type { Place, ProposedFix } from '../../finding.js';
import { type Failure, type IndexedTrace, settingAt, stepPointer } from '../../indexed.js';
import { detail, failureRule, firstWords, placeInFlow } from '../../rule.js';
import { includesHeader, refusedHeaders, type SentHeader } from '../../sent-header.js';

/** The credential that a step sends to a web address. */
function ofStep({ span }: Failure, trace: IndexedTrace): string {
  const step = trace.stepOf(span);
  const named = step ? trace.written(step).credential : undefined;
  return typeof named === 'string' && !named.includes('${') ? named : '';
}

function needOf(failure: Failure, trace: IndexedTrace): Need | null {
  const [server, model] = [detail(failure, 'server'), detail(failure, 'model')];
  if (server) return { of: 'server', name: server };
  if (model) return { of: 'model', name: model };
  const own = ofStep(failure, trace);
  if (own) return { of: 'credential', name: own };
  const address = detail(failure, 'address');
  return address ? { of: 'address', url: address } : null;
}

/** The credential that was rejected. */
function credentialOf(need: Need | null, facts: Facts): CredentialFact | null {
  if (need === null) return null;
  if (need.of === 'credential') return facts.get(need) ?? null;
  return need.of === 'server' || need.of === 'model' ? (facts.get(need)?.credential ?? null) : null;
}

/** The only credential for the address, if none is sent. */
function missing(need: Need | null, failure: Failure, trace: IndexedTrace, facts: Facts): ProposedFix | null {
  if (need === null || (need.of !== 'server' && need.of !== 'model' && need.of !== 'address')) return null;
  const [to, ...others] = facts.get(need)?.couldSend ?? [];
  if (to === undefined || others.length > 0) return null;
  if (need.of !== 'address') return { do: 'credential', of: need.of, name: need.name, to };
  const step = trace.stepOf(failure.span);
  if (!step || trace.agentOf(failure.span)) return null;
  const { flow, document } = trace.runOf(step);
  const change = settingAt(document, `${stepPointer(step)}/with/credential`, to);
  return change && change.from === null ? { do: 'change', flow, ...change } : null;
}

/** Whether a request carried a key in the wanted form. */
function carried(sent: readonly SentHeader[], { kind, header }: CredentialForm): boolean {
  const wanted = header
    ? { header: header.toLowerCase(), schemes: [] }
    : { header: 'authorization', schemes: [kind.toLowerCase()] };
  return includesHeader(sent, wanted);
}

/**
 * Returns what is wrong with the credential, and a fix that needs no knowledge of the secret. A fix is proposed only where
 * the recorded request (`sent`, null where none was recorded) lacked what the fix would send.
 */
function wrongWith(
  credential: CredentialFact,
  wants: string,
  sent: readonly SentHeader[] | null,
): { what: string; fix: string; cure?: ProposedFix } | null {
  const { name, odd, cleans, kind, header, sends, stored } = credential;
  if (sent && sends && !includesHeader(sent, sends))
    return { what: 'the credential has changed since this request', fix: 'Retry the run.' };
  if (odd)
    return {
      ...{ what: odd, fix: 'Save the secret again without the extra characters.' },
      ...(cleans && { cure: { do: 'clean', credential: name, what: odd } }),
    };
  const [from, to] = [{ kind, header }, wantedForm(wants)];
  if (!to || isSameForm(from, to) || carried(sent ?? (sends ? [sends] : []), to)) return null;
  return {
    what: `it is sent ${formWords(from)}, and the other side expects it ${formWords(to)}`,
    fix: `Send it ${formWords(to)}.`,
    // A scheme in front of the key would have to be removed from the secret first.
    ...((stored || !sends?.schemes.length) && { cure: { do: 'form', credential: name, from, to } }),
  };
}

export const credentialRefused = failureRule({
  code: 'not_authorised',
  about: 'A tool server, model or web address rejected the credential, or received none.',
  todo: 'Compare what is sent with what the other side expects. Replace the secret or change its form.',
  codes: ['server_wants_key', 'model_refused', 'http_status'],
  fits: ({ error }) =>
    error.code === 'server_wants_key' ||
    (error.code === 'model_refused'
      ? error.details?.kind === 'key'
      : [401, 403].includes(Number(error.details?.status))),
  needs: (failure, trace) => {
    const need = needOf(failure, trace);
    return need ? [need] : [];
  },
  explain: (failure, trace, facts) => {
    const need = needOf(failure, trace);
    const credential = credentialOf(need, facts);
    const [server, model] = [detail(failure, 'server'), detail(failure, 'model')];
    const who = server ? `Tool server "${server}"` : model ? `Model connection "${model}"` : detail(failure, 'address');
    const [wants, body] = [detail(failure, 'wants'), firstWords(detail(failure, 'body'))];
    const wrong = credential && wrongWith(credential, `${wants} ${body}`, refusedHeaders(failure.span));
    const place: Place = credential
      ? { credential: credential.name }
      : server
        ? { server }
        : model
          ? { model }
          : placeInFlow(failure, trace, '/with/credential');
    const sent = credential ? `credential "${credential.name}" was sent` : 'no credential was sent';
    const add = credential ? null : missing(need, failure, trace, facts);
    const refused = credential
      ? `${who} rejected the credential "${credential.name}"`
      : `${who} requires a credential, and none is sent`;
    return {
      title: wrong ? `${refused}: ${wrong.what}` : refused,
      why: `It returned ${detail(failure, 'status') || '401'}; ${sent}.${wants ? ` It expects ${wants}.` : ''}`,
      fix:
        wrong?.fix ??
        (credential
          ? 'Replace the secret with a valid one, in the form that it expects.'
          : add
            ? 'A credential for it exists: send it.'
            : 'Add a valid credential, and choose it.'),
      place,
      quotes: [wants, body],
      cure: wrong?.cure ?? add,
    };
  },
});
