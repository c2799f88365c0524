import type { DiagnosisRule, Draft } from '../../rule.js';
import { detail, failureRule, placeInStep } from '../../rule.js';

const failed = failureRule({
  code: 'answer_cut_off',
  about: 'A model stopped in the middle of its answer, or declined to answer.',
  todo: 'Raise max_tokens, or ask for a shorter answer.',
  codes: ['model_cut_off', 'model_declined'],
  explain: (failure) => {
    const model = detail(failure, 'model');
    return {
      title: failure.error.message,
      why: 'The partial answer is in the trace and does not count as an answer.',
      fix: failure.error.hint,
      place: { model },
    };
  },
});

/** An agent whose last answer was truncated has still answered. */
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
          title: end === 'length' ? 'The answer was truncated.' : 'The model declined to answer',
          why:
            end === 'length'
              ? 'The answer reached the maximum length.'
              : 'The model reported this as its finish reason.',
          fix:
            end === 'length'
              ? 'Raise max_tokens of the model connection, or limits.tokens of the agent.'
              : 'Check the message, or use another model.',
          place: placeInStep(agent, trace),
          about: [end],
          severity: 'doubt',
        },
      ];
    }),
  ],
};
