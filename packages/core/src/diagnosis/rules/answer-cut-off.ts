import type { DiagnosisRule, Draft } from '../rule.js';
import { detail, failureRule, placeInStep } from '../rule.js';

const failed = failureRule({
  code: 'answer_cut_off',
  about: 'A model stopped in the middle of its answer, or declined to give one.',
  todo: 'Let the answer be longer (max_tokens), or ask for a shorter one.',
  codes: ['model_cut_off', 'model_declined'],
  explain: (failure) => {
    const model = detail(failure, 'model');
    return {
      title: failure.error.message,
      why: 'What it said until then is in the trace, and counts as no answer.',
      fix: failure.error.hint,
      place: { model },
    };
  },
});

/** An agent whose last answer was cut off has answered all the same. */
export const cutOff: DiagnosisRule = {
  ...failed,
  look: (trace, facts) => [
    ...failed.look(trace, facts),
    ...trace.runs.flatMap((run): Draft[] => {
      const end = run.receipt?.end;
      if (run.state !== 'done' || (end !== 'length' && end !== 'refusal')) return [];
      const agent = trace.of('agent').findLast((span) => span.run === run.id);
      return [
        {
          span: agent?.spanId ?? '',
          title: end === 'length' ? 'The answer was cut off before its end.' : 'The model declined to answer',
          why:
            end === 'length'
              ? 'It came to the longest length that an answer may have.'
              : 'It said so by the way it ended its answer.',
          fix:
            end === 'length'
              ? 'Let the answer be longer: max_tokens of the model connection, or limits.tokens of the agent.'
              : 'Look at what it was asked, or use another model.',
          place: placeInStep(agent, trace),
          about: [end],
          severity: 'doubt',
        },
      ];
    }),
  ],
};
