import { isObject } from '../../json.js';
import { detail, failureRule, placeOfArgument, quoted } from '../rule.js';

export const toolError = failureRule({
  code: 'tool_error',
  about: 'The tool was reached and said that it could not do what was asked.',
  todo: 'Send another value, or limit it where it is asked for.',
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
      why: `The tool was called and answered with an error${argument ? ` that speaks of "${argument}"` : ''}.`,
      fix: !reported
        ? error.hint
        : argument
          ? `Send another value for "${argument}", or limit it where it is asked for.`
          : 'Change what was sent, or mend what the tool needs.',
      place: placeOfArgument(failure, trace, { server, tool: name, argument }),
      about: [error.code, server, name, argument],
      ...(reported && { quotes: [reason] }),
    };
  },
});
