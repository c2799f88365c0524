import { attribute } from '../../../trace/spans/attributes.js';
import { type DiagnosisRule, placeInStep } from '../../rule.js';

export const contextLost: DiagnosisRule = {
  code: 'context_full',
  about: 'Part of a conversation did not fit the context window of the model and was not sent.',
  todo: 'Forward less of large results, remember less, or use a model with a larger context window.',
  look: (trace) =>
    trace.of('model').flatMap((span) => {
      const left = span.attributes[attribute.leftOut];
      if (!Array.isArray(left) || left.length === 0) return [];
      const step = trace.stepOf(span);
      return [
        {
          span: span.spanId,
          title: `The model did not receive the whole conversation: ${left.map(String).slice(0, 2).join('; ')}`,
          why: 'Requests stay within the context window that is set at the connection.',
          fix: 'Limit in the toolbox what is forwarded of a large result, or shorten the memory.',
          place: placeInStep(span, trace),
          about: ['left out', step?.name], // language: allow, part of the fingerprint
          severity: 'warning' as const,
        },
      ];
    }),
};
