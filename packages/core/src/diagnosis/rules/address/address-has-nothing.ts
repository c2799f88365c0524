import { detail, failureRule, firstWords, placeInFlow } from '../../rule.js';

export const notThere = failureRule({
  code: 'address_has_nothing',
  about: 'A web address returned "not found".',
  todo: 'Check the path and the values in it: an owner, an account, a number.',
  codes: ['http_status'],
  fits: ({ error }) => [404, 410].includes(Number(error.details?.status)),
  explain: (failure, trace) => {
    const step = trace.stepOf(failure.span);
    const written = step ? trace.written(step).url : undefined;
    const fills = typeof written === 'string' && written.includes('${') ? ` The address is written as ${written}.` : '';
    return {
      title: `${detail(failure, 'address')} was not found (${detail(failure, 'status')})`,
      why: `The server was reached but does not know this path.${fills}`,
      fix: fills ? 'Check the value of the expression in the address.' : 'Correct the address of the step.',
      place: placeInFlow(failure, trace, '/with/url'),
      quotes: [firstWords(detail(failure, 'body'))],
    };
  },
});
