import { isObject } from '../../json.js';
import { type DiagnosisRule, detail, stepOf } from '../finding.js';

export const toolError: DiagnosisRule = {
  code: 'tool_error',
  about: 'The tool was reached and said that it could not do what was asked.',
  matches: ({ error }) => error.code === 'tool_reported_error',
  explain: (failure) => {
    const args = failure.error.details?.arguments;
    const blamed = failure.error.details?.blamed;
    const argument = Array.isArray(blamed) && typeof blamed[0] === 'string' ? blamed[0] : null;
    const tool = `${detail(failure, 'tool')} of ${detail(failure, 'server')}`;
    const value = argument && isObject(args) ? JSON.stringify(args[argument]) : '';
    const reason = failure.error.message.replace(/^.*? reported an error: /, '');
    const step = stepOf(failure);
    return {
      title: argument ? `${tool} refused ${argument} = ${value}: ${reason}` : `${tool} failed: ${reason}`,
      why: `The tool was called and answered with an error${argument ? ` that speaks of "${argument}"` : ''}.`,
      fix: argument
        ? `Send another value for "${argument}", or limit it where it is asked for.`
        : 'Change what was sent, or mend what the tool needs.',
      place: step && {
        flow: failure.flow,
        at: failure.chain.some((span) => span.work === 'agent')
          ? `${step.at}/with/toolbox`
          : `${step.at}/with/arguments${argument ? `/${argument}` : ''}`,
      },
    };
  },
};
