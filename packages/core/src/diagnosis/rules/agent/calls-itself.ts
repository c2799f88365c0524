import { failureRule, placeInFlow } from '../../rule.js';

export const recursion = failureRule({
  code: 'calls_itself',
  about: 'A flow called itself, or started more runs than allowed.',
  todo: 'Remove the recursion. Process lists with the steps of one loop.',
  codes: ['flow_too_deep', 'too_many_child_runs'],
  explain: (failure, trace) => {
    const chain = Array.isArray(failure.error.details?.chain) ? failure.error.details.chain.map(String) : [];
    const again = chain.findIndex((name, index) => chain.indexOf(name) < index);
    const circle = again < 0 ? [] : chain.slice(chain.indexOf(chain[again]!), again + 1);
    return {
      title: circle.length > 0 ? `The flows call one another in a loop: ${circle.join(' → ')}` : failure.error.message,
      why: failure.error.message,
      fix: circle.length > 0 ? `Remove the call of "${circle.at(-1)}" from "${circle.at(-2)}".` : failure.error.hint,
      place: placeInFlow(failure, trace),
      about: circle,
    };
  },
});
