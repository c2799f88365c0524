import { nearest } from '../../suggest.js';
import { detail, failureRule, placeInFlow } from '../rule.js';

export const toolGone = failureRule({
  code: 'tool_gone',
  about: 'A step or a way in names a tool that its server does not have, or not any more.',
  todo: 'Choose the tool by the name that it has now.',
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
        names.length > 0
          ? `Its tools are now ${names.slice(0, 12).join(', ')}.`
          : 'Its list of tools does not name it.',
      fix: near ? `Use "${near}", and look at what it takes.` : 'Choose another tool, or ask whoever keeps the server.',
      place,
      ...(near &&
        'flow' in place && { cure: { do: 'change', flow: place.flow, at: place.at, from: tool, to: near } as const }),
    };
  },
});
