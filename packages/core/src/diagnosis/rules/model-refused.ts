import { nearest } from '../../suggest.js';
import type { Need } from '../facts.js';
import type { Failure } from '../indexed.js';
import { detail, failureRule } from '../rule.js';

const KINDS: Record<string, string> = {
  unpaid: 'has no credit left there',
  busy: 'is asked too often, or has too much to do',
  context: 'was sent more than it can read',
  request: 'does not take what it was sent',
  fault: 'failed inside',
  model: 'is not known there by that name',
};

/** Which names there are is asked only where the name was refused. */
const needed = (failure: Failure): Extract<Need, { of: 'model' }>[] =>
  detail(failure, 'kind') === 'model' ? [{ of: 'model', name: detail(failure, 'model'), names: true }] : [];

export const modelRefused = failureRule({
  code: 'model_refused',
  about: 'A language model refused: its name, its credit, how often it is asked, how much it is sent, or the request.',
  todo: 'By the kind of refusal: correct the name, see to the credit, wait or add a fallback, send less.',
  codes: ['model_refused'],
  needs: (failure) => needed(failure),
  explain: (failure, _trace, facts) => {
    const model = detail(failure, 'model');
    const kind = detail(failure, 'kind');
    const [need] = needed(failure);
    const fact = need && facts.get(need);
    const near = kind === 'model' && fact?.offers ? (nearest(fact.model, fact.offers) ?? '') : '';
    const names = kind === 'model' && fact?.offers?.length ? ` It knows ${fact.offers.slice(0, 8).join(', ')}.` : '';
    return {
      title: `Model connection "${model}" ${KINDS[kind] ?? `answered ${detail(failure, 'status')}`}${near ? `; it has "${near}"` : ''}`,
      why: `${failure.error.message}.${names}`,
      fix: near ? `Use the name "${near}".` : failure.error.hint || 'Test the connection, and read what it says.',
      place: { model },
      quotes: [failure.error.message.replace(/^.*? answered \d+: /, '')],
      about: [model, kind],
      ...(near && fact && { cure: { do: 'model', model, from: fact.model, to: near } as const }),
    };
  },
});
