import { detail, failureRule, firstWords, placeInFlow } from '../rule.js';

export const notThere = failureRule({
  code: 'address_has_nothing',
  about: 'A web address answered that there is nothing there.',
  todo: 'Look at the path and at what fills it: an owner, an account, a number.',
  codes: ['http_status'],
  fits: ({ error }) => [404, 410].includes(Number(error.details?.status)),
  explain: (failure, trace) => {
    const step = trace.stepOf(failure.span);
    const written = step ? trace.written(step).url : undefined;
    const fills = typeof written === 'string' && written.includes('${') ? ` It is written as ${written}.` : '';
    return {
      title: `There is nothing at ${detail(failure, 'address')} (${detail(failure, 'status')})`,
      why: `The other side was reached, and knows no such path.${fills}`,
      fix: fills
        ? 'Look at what the expression in the address came to; is it the right one?'
        : 'Correct the address of the step.',
      place: placeInFlow(failure, trace, '/with/url'),
      quotes: [firstWords(detail(failure, 'body'))],
    };
  },
});
