import { isObject } from '../../../json/json.js';
import { detail, failureRule, placeOfArgument, quoted } from '../../rule.js';

export const toolError = failureRule({
  code: 'tool_error',
  about: 'The tool was reached and reported an error.',
  todo: 'Send another value, or restrict the argument where it is supplied.',
  codes: ['tool_reported_error', 'tool_refused', 'tool_broke', 'tool_answer_odd', 'tool_only_task'],
  explain: (failure, trace) => {
    const { error } = failure;
    const args = error.details?.arguments;
    const blamed = error.details?.blamed;
    const argument = Array.isArray(blamed) && typeof blamed[0] === 'string' ? blamed[0] : undefined;
    const [server, name] = [detail(failure, 'server'), detail(failure, 'tool')];
    const tool = `${name} of ${server}`;
    const value = argument && isObject(args) ? quoted(args[argument]) : '';
    const reason = detail(failure, 'why') || error.message;
    const reported = error.code === 'tool_reported_error';
    return {
      title: !reported
        ? error.message
        : argument
          ? `${tool} refused ${argument} = ${value}: ${reason}`
          : `${tool} failed: ${reason}`,
      why: `The tool call returned an error${argument ? ` that mentions "${argument}"` : ''}.`,
      fix: !reported
        ? error.hint
        : argument
          ? `Send another value for "${argument}", or restrict it where it is supplied.`
          : 'Change the input, or fix what the tool needs.',
      place: placeOfArgument(failure, trace, { server, tool: name, argument }),
      about: [error.code, server, name, argument],
      ...(reported && { quotes: [reason] }),
    };
  },
});
