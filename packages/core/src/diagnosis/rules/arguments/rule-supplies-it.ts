import { attribute } from '../../../trace/spans/attributes.js';
import { detail, failureRule, placeOfArgument, quoted, sentBy, serverOf } from '../../rule.js';

/** Only the builder can fix values that the builder supplies. */
export const ruleSupplies = failureRule({
  code: 'rule_supplies_it',
  about: 'A tool rejected a value that an argument rule supplies, not the model.',
  todo: 'Change the rule. Rewording for the model does not help.',
  codes: ['rule_breaks_tool', 'rule_without_value', 'tool_reported_error', 'argument_governed'],
  explain: (failure, trace) => {
    const { error, span } = failure;
    const server = serverOf(failure);
    const tool = detail(failure, 'tool');
    const blamed = error.details?.blamed;
    const argument = Array.isArray(blamed) ? String(blamed[0] ?? '') : detail(failure, 'argument');
    if (!argument) return null;
    const given = span.input;
    const isRule =
      error.code !== 'tool_reported_error' ||
      (span.attributes[attribute.sent] !== undefined &&
        typeof given === 'object' &&
        given !== null &&
        !(argument in given));
    if (!isRule) return null;
    const value = sentBy(failure)[argument];
    const governed = error.code === 'argument_governed';
    return {
      title: governed
        ? `${tool} received "${argument}" from the caller, but an argument rule supplies it`
        : error.code === 'rule_without_value'
          ? `The argument rule for "${argument}" of ${tool} has no value`
          : `The argument rule for "${argument}" of ${tool}${value === undefined ? '' : ` (${quoted(value)})`} is not valid: ${detail(failure, 'why') || error.message}`,
      why: governed
        ? 'The argument is hidden from callers, and they may not send it.'
        : 'The model does not see this argument and cannot correct it.',
      fix: governed ? error.hint : `Change the argument rule for "${argument}" where the tool is chosen.`,
      place: placeOfArgument(failure, trace, { server, tool, argument }),
    };
  },
});
