import { isObject } from '../../../json/json.js';
import { detail, failureRule, placeOfArgument, sentBy, serverOf } from '../../rule.js';

/** What the other side wants now and did not want, or got, when the call was built. */
export const argumentMissing = failureRule({
  code: 'argument_now_required',
  about: 'A tool requires an argument that the call does not send: its server has changed the input schema.',
  todo: 'Set the argument, or let the model supply it. Then review the other changes.',
  codes: ['tool_reported_error', 'arguments_refused'],
  // A model that leaves out what it was shown to be needed is another trouble: nothing has changed then.
  fits: (failure, trace) =>
    serverOf(failure) !== '' && (failure.error.code !== 'arguments_refused' || !trace.agentOf(failure.span)),
  needs: (failure) => [{ of: 'server', name: serverOf(failure) }],
  explain: (failure, trace, facts) => {
    const [server, tool] = [serverOf(failure), detail(failure, 'tool')];
    const now = facts.get({ of: 'server', name: server })?.tools.find(({ name }) => name === tool);
    const sent = sentBy(failure);
    const required = Array.isArray(now?.inputSchema.required) ? now.inputSchema.required.map(String) : [];
    const missing = required.filter((name) => !(name in sent));
    if (missing.length === 0) return null;
    const properties = isObject(now!.inputSchema.properties) ? now!.inputSchema.properties : {};
    const first = missing[0]!;
    const property = properties[first];
    const says = isObject(property) && typeof property.description === 'string' ? `: ${property.description}` : '';
    return {
      title: `${tool} of ${server} now requires ${missing.map((name) => `"${name}"`).join(' and ')}`,
      why: `The required arguments of the tool are ${required.join(', ')}${says}. The call sent ${Object.keys(sent).join(', ') || 'nothing'}.`,
      fix: `Set "${first}", or let the model supply it.`,
      place: placeOfArgument(failure, trace, { server, tool, argument: first }),
      quotes: [detail(failure, 'why')],
    };
  },
});
