import { attribute } from '../../trace/attributes.js';
import { type DiagnosisRule, placeInStep } from '../rule.js';

export const contextLost: DiagnosisRule = {
  code: 'context_full',
  about: 'Part of a conversation was not sent to the model, because it would not have fitted.',
  todo: 'Hand on less of large results, remember less, or use a model that reads more.',
  look: (trace) =>
    trace.of('model').flatMap((span) => {
      const left = span.attributes[attribute.leftOut];
      if (!Array.isArray(left) || left.length === 0) return [];
      const step = trace.stepOf(span);
      return [
        {
          span: span.spanId,
          title: `The model was not sent all of the conversation: ${left.map(String).slice(0, 2).join('; ')}`,
          why: 'What is sent is kept within what its connection says the model can read.',
          fix: 'Say in the toolbox what of a large result is handed on, or shorten the memory.',
          place: placeInStep(span, trace),
          about: ['left out', step?.name],
          severity: 'warning' as const,
        },
      ];
    }),
};
