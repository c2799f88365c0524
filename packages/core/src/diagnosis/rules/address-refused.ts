import type { Failure, IndexedTrace } from '../indexed.js';
import { detail, failureRule, firstWords, placeInFlow } from '../rule.js';

/** What was sent along is likelier at fault than where it was sent to. */
function sentWith({ span }: Failure, trace: IndexedTrace): string {
  const step = trace.stepOf(span);
  const written = step ? trace.written(step) : {};
  return `/with/${['json', 'form', 'multipart', 'text', 'query'].find((name) => name in written) ?? 'url'}`;
}

export const httpRefused = failureRule({
  code: 'address_refused',
  about: 'A web address answered with an error of another kind.',
  todo: 'Read its first words; a status from 500 on is for whoever keeps it.',
  codes: ['http_status', 'address_forbidden', 'answer_too_large'],
  explain: (failure, trace) => {
    const status = Number(failure.error.details?.status);
    const words = firstWords(detail(failure, 'body'));
    const theirs = status >= 500;
    return {
      title: `${failure.error.message}${words ? `: ${words.slice(0, 80)}` : ''}`,
      why: theirs ? 'It failed inside; what was sent may be right.' : failure.error.message,
      fix:
        status === 429
          ? 'It is asked too often: wait, and ask less often.'
          : theirs
            ? 'Try again later, or ask whoever keeps it.'
            : failure.error.hint,
      place: placeInFlow(failure, trace, status >= 400 && status < 500 ? sentWith(failure, trace) : '/with/url'),
      quotes: [words],
    };
  },
});
