import { isObject, type Json } from '../../../json/json.js';
import { humanSize } from '../../../json/size.js';
import { MOST_SENT } from '../../../tools/most-sent.js';
import { sentence, validate } from '../../../tools/schema.js';
import type { Facts, Need } from '../../facts.js';
import type { IndexedTrace } from '../../indexed.js';
import type { DiagnosisRule } from '../../rule.js';

/** A successful run whose client received an error. */
const withheld = (trace: IndexedTrace) =>
  trace.runs.filter(({ withheldFrom, state }) => withheldFrom && state === 'done').slice(0, 1);

/** How a result is not what may be sent; empty where it is. */
function wrongWith(result: Json, endpoint: string, tool: string, facts: Facts): string {
  const { length } = typeof result === 'string' ? result : JSON.stringify(result);
  if (length > MOST_SENT) return `it has ${humanSize(length)}, and the limit is ${humanSize(MOST_SENT)}`;
  const promised = facts.get({ of: 'endpoint', name: endpoint })?.returns?.[tool];
  if (!promised) return '';
  const data = isObject(result) && Array.isArray(result.content) ? result.data : result;
  return isObject(data) ? sentence(validate(promised, data)) : 'it is not an object as the schema requires';
}

/** The flow succeeded, but the caller received an error. */
export const answerWithheld: DiagnosisRule = {
  code: 'answer_withheld',
  about:
    'A flow succeeded, but its result was withheld from the client: it does not match the result schema, or is too large.',
  todo: 'Fix the result of the flow, or the result schema on the endpoint.',
  needs: (trace) => withheld(trace).map(({ withheldFrom }): Need => ({ of: 'endpoint', name: withheldFrom!.endpoint })),
  look: (trace, facts) =>
    withheld(trace).flatMap(({ id, flow, withheldFrom, result = null }) => {
      const { endpoint, tool } = withheldFrom!;
      const root = trace.of('run').find(({ run }) => run === id);
      const wrong = wrongWith(result, endpoint, tool, facts);
      if (!root || !wrong) return [];
      return [
        {
          span: root.spanId,
          title: `The client did not receive the result of ${tool}: ${wrong}`,
          why: `The flow succeeded, and its effects remain. Endpoint "${endpoint}" promises a different result, so the client received an error.`,
          fix: `Fix the result of flow "${flow}", or the result schema of ${tool} on endpoint "${endpoint}".`,
          place: { endpoint },
          about: [endpoint, tool],
          severity: 'doubt' as const,
        },
      ];
    }),
};
