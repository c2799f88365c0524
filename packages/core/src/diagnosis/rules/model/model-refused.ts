import { isObject } from '../../../json/json.js';
import { nearest } from '../../../text/suggest.js';
import { estimateTokens } from '../../../tools/tokens.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { Span } from '../../../trace/spans/span.js';
import type { Need } from '../../facts.js';
import type { Failure } from '../../indexed.js';
import { detail, failureRule, placeInFlow } from '../../rule.js';

const KINDS: Record<string, string> = {
  unpaid: 'has no credit left',
  busy: 'reports too many requests or an overload',
  context: 'received more than its context window',
  request: 'rejected the request',
  fault: 'failed internally',
  model: 'does not know this model name',
};

/** Which names there are is asked only where the name was refused. */
const needed = (failure: Failure): Extract<Need, { of: 'model' }>[] =>
  detail(failure, 'kind') === 'model' ? [{ of: 'model', name: detail(failure, 'model'), names: true }] : [];

/** What took most of what a model was sent, in a sentence; empty where the record does not say. */
function filledBy({ input, attributes }: Span): { sentence: string; tool: string } {
  const messages = (Array.isArray(input) ? input : []).filter(isObject);
  const parts = messages.map(({ role, name, text }) => ({
    what:
      role === 'tool' ? `the result of ${name}` : role === 'system' ? 'the instructions' : `the messages of ${role}`,
    tool: role === 'tool' ? String(name) : '',
    tokens: estimateTokens(typeof text === 'string' ? text : ''),
  }));
  const offered = attributes[attribute.offered];
  if (offered !== undefined) parts.push({ what: 'the tool definitions', tool: '', tokens: estimateTokens(offered) });
  const all = parts.reduce((sum, { tokens }) => sum + tokens, 0);
  const [most] = parts.toSorted((a, b) => b.tokens - a.tokens);
  if (!most || all === 0) return { sentence: '', tool: '' };
  const count = (tokens: number) => tokens.toLocaleString('en');
  return {
    sentence: ` The largest part was ${most.what}: about ${count(most.tokens)} of ${count(all)} tokens.`,
    tool: most.tool,
  };
}

export const modelRefused = failureRule({
  code: 'model_refused',
  about: 'A model refused: its name, its credit, the request rate, the context window, or the request.',
  todo: 'Depends on the reason: correct the name, add credit, wait or add a fallback, send less.',
  codes: ['model_refused'],
  needs: (failure) => needed(failure),
  explain: (failure, trace, facts) => {
    const model = detail(failure, 'model');
    const kind = detail(failure, 'kind');
    const [need] = needed(failure);
    const fact = need && facts.get(need);
    const near = kind === 'model' && fact?.offers ? (nearest(fact.model, fact.offers) ?? '') : '';
    const filled = kind === 'context' ? filledBy(failure.span) : { sentence: '', tool: '' };
    const names =
      kind === 'model' && fact?.offers?.length ? ` Available models: ${fact.offers.slice(0, 8).join(', ')}.` : '';
    return {
      title: `Model connection "${model}" ${KINDS[kind] ?? `answered ${detail(failure, 'status')}`}${near ? `; it has "${near}"` : ''}`,
      why: `${failure.error.message}.${names}${filled.sentence}`,
      fix: near ? `Use the name "${near}".` : failure.error.hint || 'Test the connection and read its response.',
      place: filled.tool ? placeInFlow(failure, trace, '/with/toolbox') : { model },
      quotes: [detail(failure, 'why')],
      about: [model, kind],
      ...(near && fact && { cure: { do: 'model', model, from: fact.model, to: near } as const }),
    };
  },
});
