import { type DiagnosisRule, detail, placeInFlow } from '../finding.js';

export const argumentsRefused: DiagnosisRule = {
  code: 'arguments_refused',
  about: 'What a caller, a model or a step sent does not fit what the tool or flow takes.',
  matches: ({ error }) =>
    ['arguments_refused', 'input_refused', 'argument_governed', 'rule_breaks_tool', 'value_unsafe'].includes(
      error.code,
    ),
  explain: (failure) => {
    const { error, span } = failure;
    const tool = detail(failure, 'tool') || failure.flow;
    const argument = detail(failure, 'argument') || error.at?.split('/')[1];
    const byModel = failure.chain.some((above) => above.work === 'agent');
    // The first mistake without what would help to mend it: a title has to be short.
    const reason = error.message
      .replace(/^.*? (?:were|was) refused: /, '')
      .split('; ')[0]!
      .replace(/ \(.*\)$/, '');
    const builder = error.code === 'rule_breaks_tool';
    return {
      title: `${tool} refused ${argument ? `its argument "${argument}"` : 'its arguments'}: ${reason}`,
      why: error.message,
      fix: builder
        ? `Change the rule for "${argument}" where the tool is chosen.`
        : byModel
          ? `Say in the description of "${argument}" what it must look like, or set it for the model.`
          : span.work === 'run'
            ? 'Send the call again with the argument mended.'
            : 'Mend what the step gives the tool.',
      place: placeInFlow(failure, '/with'),
    };
  },
};
