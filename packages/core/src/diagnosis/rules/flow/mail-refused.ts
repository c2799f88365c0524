import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { DiagnosisRule, Draft } from '../../rule.js';
import { detail, failureRule, placeInFlow, placeInStep } from '../../rule.js';

const failed = failureRule({
  code: 'mail_refused',
  about: 'A mail server rejected some or all recipients.',
  todo: 'Correct the rejected addresses.',
  codes: ['mail_refused', 'mail_nowhere'],
  explain: (failure, trace) => ({
    title: failure.error.message,
    why: detail(failure, 'refused') ? `The mail server rejected ${detail(failure, 'refused')}.` : 'No mail was sent.',
    fix: failure.error.hint,
    place: placeInFlow(failure, trace, '/with/to'),
  }),
});

export const mailRefused: DiagnosisRule = {
  ...failed,
  look: (trace, facts) => [
    ...failed.look(trace, facts),
    ...trace.of('step').flatMap((span): Draft[] => {
      const { output } = span;
      if (span.attributes[attribute.kind] !== 'mail' || !isObject(output)) return [];
      const refused = Array.isArray(output.refused) ? output.refused.map(String) : [];
      if (refused.length === 0) return [];
      return [
        {
          span: span.spanId,
          title: `The mail of "${span.name}" was rejected for ${refused.join(', ')}`,
          why: 'The mail server accepted it for the others.',
          fix: 'Correct these addresses, and send the mail to them again.',
          place: placeInStep(span, trace, '/with/to'),
          about: [span.name],
          severity: 'doubt',
        },
      ];
    }),
  ],
};
