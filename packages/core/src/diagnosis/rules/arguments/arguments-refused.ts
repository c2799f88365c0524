import { detail, failureRule, placeInFlow, placeOfArgument, serverOf } from '../../rule.js';

export const argumentsRefused = failureRule({
  code: 'arguments_refused',
  about: 'The arguments from a caller, a model or a step do not match the input schema, or cannot be parsed.',
  todo: 'Describe the format of the argument, or set it.',
  codes: ['arguments_refused', 'input_refused', 'value_unsafe'],
  explain: (failure, trace) => {
    const { error, span } = failure;
    const tool = detail(failure, 'tool') || failure.flow;
    const argument = detail(failure, 'argument') || error.at?.split('/')[1] || undefined;
    const byModel = trace.agentOf(span) !== undefined;
    if (byModel && typeof span.input === 'string')
      return {
        title: `The model sent arguments for ${tool} that cannot be parsed`,
        why: 'The arguments are not one JSON object. The model received this error.',
        fix: 'No fix needed if the model then corrected them. If it happens often, use a model with better tool calling, or fewer arguments.',
        place: placeInFlow(failure, trace, '/with/model'),
        quotes: [span.input],
        about: ['unreadable', tool],
      };
    // The first mistake alone: a title has to be short.
    const reason = detail(failure, 'reason') || error.message;
    return {
      title: `${tool} rejected ${argument ? `its argument "${argument}"` : 'its arguments'}: ${reason}`,
      why: error.message,
      fix: byModel
        ? `Describe the format of "${argument}", or set it for the model.`
        : span.work === 'run'
          ? 'Correct the argument and call again.'
          : 'Correct the arguments of the step.',
      place:
        byModel || serverOf(failure)
          ? placeOfArgument(failure, trace, { server: serverOf(failure), tool, argument })
          : placeInFlow(failure, trace, '/with'),
      about: [error.code, tool, argument],
    };
  },
});
