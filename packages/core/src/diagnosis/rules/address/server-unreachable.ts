import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { DiagnosisRule, Draft } from '../../rule.js';
import { detail, failureRule, placeInFlow } from '../../rule.js';

const failed = failureRule({
  code: 'server_unreachable',
  about: 'A tool server or web address did not answer, reports an overload, or disconnected during a call.',
  todo: 'Restart it or wait. After an interrupted call, check first whether it took effect.',
  codes: ['server_unreachable', 'server_lost', 'server_busy', 'server_left_alone', 'address_unreachable'],
  explain: (failure, trace) => {
    const server = detail(failure, 'server');
    const lost = failure.error.code === 'server_lost';
    return {
      title: server
        ? `Tool server "${server}" ${lost ? 'disconnected during the call' : 'could not be reached'}`
        : failure.error.message,
      why: failure.error.message,
      fix: lost ? `Check whether the call took effect, then run it again. ${failure.error.hint}` : failure.error.hint,
      place: server ? { server } : placeInFlow(failure, trace),
    };
  },
});

/** An agent continues without an unreachable server, but readers of the run should know. */
export const serverUnreachable: DiagnosisRule = {
  ...failed,
  look: (trace, facts) => {
    const drafts = failed.look(trace, facts);
    const known = new Set(drafts.flatMap(({ place }) => (place && 'server' in place ? [place.server] : [])));
    const wentOn = trace.of('agent').flatMap((span): Draft[] => {
      const list = span.attributes[attribute.unreachable];
      return (Array.isArray(list) ? list : []).filter(isObject).flatMap((entry): Draft[] => {
        const server = String(entry.server);
        if (known.has(server)) return [];
        return [
          {
            span: span.spanId,
            title: `Tool server "${server}" could not be reached`,
            why: `${entry.message}. The agent continued with the last known tools of the server.`,
            fix: String(entry.hint),
            place: { server },
            about: ['toolbox', server],
            severity: 'warning',
          },
        ];
      });
    });
    return [...drafts, ...wentOn];
  },
};
