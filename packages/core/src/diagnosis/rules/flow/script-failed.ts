import { detail, failureRule, placeInFlow } from '../../rule.js';

export const scriptFailed = failureRule({
  code: 'script_failed',
  about: 'A script threw an error, or exceeded its time or memory. The line is given.',
  todo: 'Fix the line.',
  codes: ['script_failed', 'script_limit'],
  explain: (failure, trace) => {
    const step = trace.stepOf(failure.span);
    const line = Number(failure.error.details?.line);
    const code = step ? trace.written(step).code : undefined;
    const text = typeof code === 'string' && line > 0 ? (code.split('\n')[line - 1] ?? '').trim() : '';
    return {
      title: failure.error.message,
      why: text ? `Line ${line} is: ${text}` : 'The script runs isolated, without files or network.',
      fix: failure.error.hint,
      place: placeInFlow(failure, trace, '/with/code'),
      quotes: [text],
      about: [step?.name, detail(failure, 'line')],
    };
  },
});
