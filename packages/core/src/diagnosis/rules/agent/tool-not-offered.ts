import { nearest } from '../../../text/suggest.js';
import { detail, failureRule } from '../../rule.js';

export const toolNotOffered = failureRule({
  code: 'tool_not_offered',
  about: 'A client called a tool that its endpoint does not have, or that its access key may not use.',
  todo: 'Refresh the tool list in the client. Add the tool to the endpoint, or extend the key.',
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
        why: `The endpoint has the tool, but the key allows ${offered.join(', ') || 'no tools'}.`,
        fix: 'To allow it, extend the key: pindro key update.',
        ...{ place, about },
      };
    const near = nearest(tool, offered);
    return {
      title: `${who} called "${tool}", which endpoint "${endpoint}" does not have${near ? `; it has "${near}"` : ''}`,
      why: offered.length > 0 ? `Its tools are ${offered.slice(0, 12).join(', ')}.` : 'It has no tools.',
      fix: near
        ? 'Refresh the tool list in the client: it may be out of date.'
        : 'Add the tool to the endpoint, or refresh the tool list in the client.',
      ...{ place, about },
    };
  },
});
