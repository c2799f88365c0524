import { detail, failureRule, placeOfArgument, serverOf } from '../../rule.js';

/** What the builder wrote as a rule holds; that the model had to be stopped by it costs rounds. */
export const ruleNotKept = failureRule({
  code: 'rule_not_kept',
  about: 'A model broke a rule of its toolbox: which tool comes first, or how often one may be called.',
  todo: 'Repeat the rule in the instructions. The rule is enforced either way.',
  codes: ['tool_too_early', 'tool_calls_used'],
  explain: (failure, trace) => {
    const tool = detail(failure, 'tool');
    const needs = failure.error.details?.needs;
    const first = Array.isArray(needs) ? needs.map(String).join(' and ') : '';
    return {
      title: first
        ? `The model called "${tool}" before ${first}, which must come first`
        : `The model called "${tool}" more often than allowed`,
      why: failure.error.message,
      fix: first
        ? `Add to the instructions that ${first} comes first. The call had no effect.`
        : 'Add to the instructions how often it may be called, or raise "calls" where the tool is chosen.',
      place: placeOfArgument(failure, trace, { server: serverOf(failure), tool }),
      about: [failure.error.code, tool],
      severity: 'warning',
    };
  },
});
