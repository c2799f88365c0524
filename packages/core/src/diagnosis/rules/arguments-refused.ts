import { detail, failureRule, placeInFlow, placeOfArgument, serverOf } from '../rule.js';

export const argumentsRefused = failureRule({
  code: 'arguments_refused',
  about: 'What a caller, a model or a step sent does not fit what the tool or flow takes, or cannot be read.',
  todo: 'Say in the description of the argument what it must look like, or set it.',
  codes: ['arguments_refused', 'input_refused', 'value_unsafe'],
  explain: (failure, trace) => {
    const { error, span } = failure;
    const tool = detail(failure, 'tool') || failure.flow;
    const argument = detail(failure, 'argument') || error.at?.split('/')[1] || undefined;
    const byModel = trace.agentOf(span) !== undefined;
    if (byModel && typeof span.input === 'string')
      return {
        title: `The model wrote arguments for ${tool} that nobody can read`,
        why: 'They are not one JSON object. It was told so.',
        fix: 'Nothing, if it then wrote them well. If it happens often, use a model that calls tools better, or fewer arguments.',
        place: placeInFlow(failure, trace, '/with/model'),
        quotes: [span.input],
        about: ['unreadable', tool],
      };
    // The first mistake alone: a title has to be short.
    const reason = detail(failure, 'reason') || error.message;
    return {
      title: `${tool} refused ${argument ? `its argument "${argument}"` : 'its arguments'}: ${reason}`,
      why: error.message,
      fix: byModel
        ? `Say in the description of "${argument}" what it must look like, or set it for the model.`
        : span.work === 'run'
          ? 'Send the call again with the argument mended.'
          : 'Mend what the step gives the tool.',
      place:
        byModel || serverOf(failure)
          ? placeOfArgument(failure, trace, { server: serverOf(failure), tool, argument })
          : placeInFlow(failure, trace, '/with'),
      about: [error.code, tool, argument],
    };
  },
});
