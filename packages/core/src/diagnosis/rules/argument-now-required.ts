import { isObject } from '../../json.js';
import { detail, failureRule, placeOfArgument, sentBy, serverOf } from '../rule.js';

/** What the other side wants now and did not want, or got, when the call was built. */
export const argumentMissing = failureRule({
  code: 'argument_now_required',
  about: 'A tool wants an argument that it is not sent: its server has changed what it takes.',
  todo: 'Set the argument, or have the model asked for it; then look at what else changed.',
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
      title: `${tool} of ${server} now wants ${missing.map((name) => `"${name}"`).join(' and ')}, and was not sent it`,
      why: `Its server lists what it takes as ${required.join(', ')}${says}. The call had ${Object.keys(sent).join(', ') || 'nothing'}.`,
      fix: `Set "${first}", or let it be asked for.`,
      place: placeOfArgument(failure, trace, { server, tool, argument: first }),
      quotes: [detail(failure, 'why')],
    };
  },
});
