import { nearest } from '../../suggest.js';
import { detail, failureRule } from '../rule.js';

export const toolNotOffered = failureRule({
  code: 'tool_not_offered',
  about: 'A client called a tool that its endpoint does not have, or that its access key may not use.',
  todo: 'Have the client read the list anew; put the tool on the endpoint, or widen what the key may use.',
  codes: ['tool_unknown'],
  fits: (failure) => detail(failure, 'endpoint') !== '',
  needs: (failure) => [{ of: 'endpoint', name: detail(failure, 'endpoint') }],
  explain: (failure, _trace, facts) => {
    const [endpoint, tool] = [detail(failure, 'endpoint'), detail(failure, 'tool')];
    const offered = Array.isArray(failure.error.details?.offered) ? failure.error.details.offered.map(String) : [];
    const all = facts.get({ of: 'endpoint', name: endpoint })?.tools ?? [];
    const who = failure.run.caller ?? 'A client';
    const place = { endpoint };
    const about = [endpoint, tool];
    if (all.includes(tool))
      return {
        title: `The access key of ${who} may not use "${tool}" of endpoint "${endpoint}"`,
        why: `The endpoint has it; the key is offered ${offered.join(', ') || 'no tool at all'}.`,
        fix: 'Widen what the key may use, if that is meant: pindro key change.',
        ...{ place, about },
      };
    const near = nearest(tool, offered);
    return {
      title: `${who} called "${tool}", which endpoint "${endpoint}" does not have${near ? `; it has "${near}"` : ''}`,
      why: offered.length > 0 ? `It offers ${offered.slice(0, 12).join(', ')}.` : 'It offers no tool at all.',
      fix: near
        ? 'Have the client read the list of tools anew: it may know an earlier one.'
        : 'Put the tool on the endpoint, or have the client read the list anew.',
      ...{ place, about },
    };
  },
});
