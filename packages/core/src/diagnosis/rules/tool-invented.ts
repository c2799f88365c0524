import { nearest } from '../../suggest.js';
import { attribute } from '../../trace/attributes.js';
import { detail, failureRule, placeInFlow } from '../rule.js';

export const toolInvented = failureRule({
  code: 'tool_invented',
  about: 'A model called a tool that it was not offered.',
  todo: 'Nothing where it found the right one; else reword the tools, or offer the one that it wants.',
  codes: ['tool_unknown'],
  explain: (failure, trace) => {
    const tool = detail(failure, 'tool');
    const offered = trace.agentOf(failure.span)?.attributes[attribute.tools];
    const names = Array.isArray(offered) ? offered.map(String) : [];
    const near = nearest(tool, names);
    return {
      title: `The model called "${tool}", which it does not have${near ? `; it probably meant "${near}"` : ''}`,
      why: names.length > 0 ? `It was offered ${names.slice(0, 12).join(', ')}.` : 'It was offered no tool at all.',
      fix: near
        ? `Nothing, if it then called "${near}". If it happens often, give the tool the name that the model looks for.`
        : 'Add the tool to its toolbox, or say in the instructions what it cannot do.',
      place: placeInFlow(failure, trace, '/with/toolbox'),
    };
  },
});
