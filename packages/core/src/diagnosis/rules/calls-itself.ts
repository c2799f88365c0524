import { failureRule, placeInFlow } from '../rule.js';

export const recursion = failureRule({
  code: 'calls_itself',
  about: 'A flow came back to itself, or began more runs than one may.',
  todo: 'Break the circle; work through lists by the steps of one loop.',
  codes: ['flow_too_deep', 'too_many_child_runs'],
  explain: (failure, trace) => {
    const chain = Array.isArray(failure.error.details?.chain) ? failure.error.details.chain.map(String) : [];
    const again = chain.findIndex((name, index) => chain.indexOf(name) < index);
    const circle = again < 0 ? [] : chain.slice(chain.indexOf(chain[again]!), again + 1);
    return {
      title:
        circle.length > 0 ? `The flows call one another in a circle: ${circle.join(' → ')}` : failure.error.message,
      why: failure.error.message,
      fix: circle.length > 0 ? `Take the call of "${circle.at(-1)}" out of "${circle.at(-2)}".` : failure.error.hint,
      place: placeInFlow(failure, trace),
      about: circle,
    };
  },
});
