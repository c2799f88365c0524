import { isObject } from '../../json.js';
import { nearest } from '../../suggest.js';
import { estimateTokens } from '../../tools/tokens.js';
import { attribute } from '../../trace/attributes.js';
import type { Span } from '../../trace/span.js';
import type { Need } from '../facts.js';
import type { Failure } from '../indexed.js';
import { detail, failureRule, placeInFlow } from '../rule.js';

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

/** What took most of what a model was sent, in a sentence; empty where the record does not say. */
function filledBy({ input, attributes }: Span): { sentence: string; tool: string } {
  const messages = (Array.isArray(input) ? input : []).filter(isObject);
  const parts = messages.map(({ role, name, text }) => ({
    what: role === 'tool' ? `the result of ${name}` : role === 'system' ? 'the instructions' : `what ${role} said`,
    tool: role === 'tool' ? String(name) : '',
    tokens: estimateTokens(typeof text === 'string' ? text : ''),
  }));
  const offered = attributes[attribute.offered];
  if (offered !== undefined)
    parts.push({ what: 'the tools that it was offered', tool: '', tokens: estimateTokens(offered) });
  const all = parts.reduce((sum, { tokens }) => sum + tokens, 0);
  const [most] = parts.toSorted((a, b) => b.tokens - a.tokens);
  if (!most || all === 0) return { sentence: '', tool: '' };
  const count = (tokens: number) => tokens.toLocaleString('en');
  return {
    sentence: ` Most of it was ${most.what}: about ${count(most.tokens)} of ${count(all)} tokens.`,
    tool: most.tool,
  };
}

export const modelRefused = failureRule({
  code: 'model_refused',
  about: 'A language model refused: its name, its credit, how often it is asked, how much it is sent, or the request.',
  todo: 'By the kind of refusal: correct the name, see to the credit, wait or add a fallback, send less.',
  codes: ['model_refused'],
  needs: (failure) => needed(failure),
  explain: (failure, trace, facts) => {
    const model = detail(failure, 'model');
    const kind = detail(failure, 'kind');
    const [need] = needed(failure);
    const fact = need && facts.get(need);
    const near = kind === 'model' && fact?.offers ? (nearest(fact.model, fact.offers) ?? '') : '';
    const filled = kind === 'context' ? filledBy(failure.span) : { sentence: '', tool: '' };
    const names = kind === 'model' && fact?.offers?.length ? ` It knows ${fact.offers.slice(0, 8).join(', ')}.` : '';
    return {
      title: `Model connection "${model}" ${KINDS[kind] ?? `answered ${detail(failure, 'status')}`}${near ? `; it has "${near}"` : ''}`,
      why: `${failure.error.message}.${names}${filled.sentence}`,
      fix: near ? `Use the name "${near}".` : failure.error.hint || 'Test the connection, and read what it says.',
      place: filled.tool ? placeInFlow(failure, trace, '/with/toolbox') : { model },
      quotes: [detail(failure, 'why')],
      about: [model, kind],
      ...(near && fact && { cure: { do: 'model', model, from: fact.model, to: near } as const }),
    };
  },
});
