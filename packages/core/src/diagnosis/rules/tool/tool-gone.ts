import { nearest } from '../../../text/suggest.js';
import { detail, failureRule, placeInFlow } from '../../rule.js';

export const toolGone = failureRule({
  code: 'tool_gone',
  about: 'A step or an entry point names a tool that its server does not have, or no longer has.',
  todo: 'Choose the tool by its present name.',
  codes: ['tool_unknown'],
  fits: (failure) => detail(failure, 'server') !== '',
  needs: (failure) => [{ of: 'server', name: detail(failure, 'server') }],
  explain: (failure, trace, facts) => {
    const server = detail(failure, 'server');
    const tool = detail(failure, 'tool');
    const names = (facts.get({ of: 'server', name: server })?.tools ?? []).map(({ name }) => name);
    const near = nearest(tool, names);
    const place = placeInFlow(failure, trace, '/with/tool');
    return {
      title: `Tool server "${server}" has no tool "${tool}"${near ? `; it has "${near}"` : ''}`,
      why:
        names.length > 0 ? `Its tools are now ${names.slice(0, 12).join(', ')}.` : 'Its tool list does not include it.',
      fix: near ? `Use "${near}", and check its arguments.` : 'Choose another tool, or ask the operator of the server.',
      place,
      ...(near &&
        'flow' in place && { cure: { do: 'change', flow: place.flow, at: place.at, from: tool, to: near } as const }),
    };
  },
});
