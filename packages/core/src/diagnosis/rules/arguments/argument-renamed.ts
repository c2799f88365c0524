import { isObject, type Json, type JsonObject, pointerParts, valueAt } from '../../../json/json.js';
import { nearest } from '../../../text/suggest.js';
import { detail, failureRule, placeOfArgument, sentBy, serverOf } from '../../rule.js';

/** An argument that the tool does not have, next to one that it has and did not receive. */
function renamed(sent: JsonObject, properties: JsonObject): { from: string; to: string } | null {
  const left = Object.keys(properties).filter((name) => !Object.hasOwn(sent, name));
  const unknown = Object.keys(sent).filter((name) => !Object.hasOwn(properties, name));
  for (const from of unknown) {
    const to = nearest(from, left);
    if (to !== undefined) return { from, to };
  }
  // Where one is too many and one is missing, they are the same, however they are called.
  if (unknown.length === 1 && left.length === 1) return { from: unknown[0]!, to: left[0]! };
  return null;
}

/** The same object with another name in the place of one. */
const withName = (object: JsonObject, from: string, to: string): JsonObject =>
  Object.fromEntries(Object.entries(object).map(([name, value]) => [name === from ? to : name, value]));

export const argumentRenamed = failureRule({
  code: 'argument_renamed',
  about: 'A step sends a tool an argument under a name that the tool does not have, or no longer has.',
  todo: 'Use the present name.',
  codes: ['arguments_refused', 'tool_reported_error'],
  fits: (failure, trace) => serverOf(failure) !== '' && !trace.agentOf(failure.span),
  needs: (failure) => [{ of: 'server', name: serverOf(failure) }],
  explain: (failure, trace, facts) => {
    const [server, tool] = [serverOf(failure), detail(failure, 'tool')];
    const schema = facts.get({ of: 'server', name: server })?.tools.find(({ name }) => name === tool)?.inputSchema;
    if (!schema || !isObject(schema.properties)) return null;
    const found = renamed(sentBy(failure), schema.properties);
    if (!found) return null;
    const place = placeOfArgument(failure, trace, { server, tool });
    const written = ('flow' in place ? valueAt(failure.run.document, pointerParts(place.at)) : undefined) as
      | Json
      | undefined;
    const isThere = isObject(written) && Object.hasOwn(written, found.from);
    return {
      title: `${tool} of ${server} has no argument "${found.from}"; it has "${found.to}"`,
      why: `The arguments of the tool are ${Object.keys(schema.properties).join(', ')}.`,
      fix: `Rename "${found.from}" to "${found.to}".`,
      place,
      about: [server, tool, found.from],
      ...(isThere &&
        'flow' in place && {
          cure: { do: 'change', ...place, from: written, to: withName(written, found.from, found.to) } as const,
        }),
    };
  },
});
