import { nearest } from '../../../text/suggest.js';
import { attribute } from '../../../trace/spans/attributes.js';
import { detail, failureRule, placeInFlow } from '../../rule.js';

export const toolInvented = failureRule({
  code: 'tool_invented',
  about: 'A model called a tool that it was not offered.',
  todo: 'No fix needed if it then found the right one. Otherwise reword the tools, or add the one it looks for.',
  codes: ['tool_unknown'],
  explain: (failure, trace) => {
    const tool = detail(failure, 'tool');
    const offered = trace.agentOf(failure.span)?.attributes[attribute.tools];
    const names = Array.isArray(offered) ? offered.map(String) : [];
    const near = nearest(tool, names);
    return {
      title: `The model called "${tool}", which is not in its toolbox${near ? `; it probably meant "${near}"` : ''}`,
      why: names.length > 0 ? `Its tools were ${names.slice(0, 12).join(', ')}.` : 'Its toolbox offered no tools.',
      fix: near
        ? `No fix needed if it then called "${near}". If it happens often, give the tool the name that the model looks for.`
        : 'Add the tool to its toolbox, or add to the instructions what it cannot do.',
      place: placeInFlow(failure, trace, '/with/toolbox'),
    };
  },
});
