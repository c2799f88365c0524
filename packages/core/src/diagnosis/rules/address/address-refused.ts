import type { Failure, IndexedTrace } from '../../indexed.js';
import { detail, failureRule, firstWords, placeInFlow } from '../../rule.js';

/** The input is more likely at fault than the address. */
function sentWith({ span }: Failure, trace: IndexedTrace): string {
  const step = trace.stepOf(span);
  const written = step ? trace.written(step) : {};
  return `/with/${['json', 'form', 'multipart', 'text', 'query'].find((name) => name in written) ?? 'url'}`;
}

export const httpRefused = failureRule({
  code: 'address_refused',
  about: 'A web address returned another error.',
  todo: 'Read the beginning of its response. A status of 500 or above is for its operator.',
  codes: ['http_status', 'address_forbidden', 'answer_too_large'],
  explain: (failure, trace) => {
    const status = Number(failure.error.details?.status);
    const words = firstWords(detail(failure, 'body'));
    const theirs = status >= 500;
    // What the service says for its callers is part of the message already.
    const isBare = /\b\d{3}$/.test(failure.error.message);
    return {
      title: `${failure.error.message}${words && isBare ? `: ${words.slice(0, 80)}` : ''}`,
      why: theirs ? 'The server failed internally; the request may be correct.' : failure.error.message,
      fix:
        status === 429
          ? 'Too many requests: wait, and send fewer.'
          : theirs
            ? 'Retry later, or ask its operator.'
            : failure.error.hint,
      place: placeInFlow(failure, trace, status >= 400 && status < 500 ? sentWith(failure, trace) : '/with/url'),
      quotes: [words],
    };
  },
});
