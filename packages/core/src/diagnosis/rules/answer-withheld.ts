import { isObject, type Json } from '../../json.js';
import { humanSize } from '../../size.js';
import { MOST_SENT } from '../../tools/most-sent.js';
import { sentence, validate } from '../../tools/schema.js';
import type { Facts, Need } from '../facts.js';
import type { IndexedTrace } from '../indexed.js';
import type { DiagnosisRule } from '../rule.js';

/** The run that went well, and whose client was not told so. */
const withheld = (trace: IndexedTrace) =>
  trace.runs.filter(({ withheldFrom, state }) => withheldFrom && state === 'done').slice(0, 1);

/** How a result is not what may be sent; empty where it is. */
function wrongWith(result: Json, endpoint: string, tool: string, facts: Facts): string {
  const { length } = typeof result === 'string' ? result : JSON.stringify(result);
  if (length > MOST_SENT) return `it has ${humanSize(length)}, and ${humanSize(MOST_SENT)} is the most`;
  const promised = facts.get({ of: 'endpoint', name: endpoint })?.returns?.[tool];
  if (!promised) return '';
  const data = isObject(result) && Array.isArray(result.content) ? result.data : result;
  return isObject(data) ? sentence(validate(promised, data)) : 'it is not the object that is promised';
}

/** The flow did its work, and who called was told an error all the same. */
export const answerWithheld: DiagnosisRule = {
  code: 'answer_withheld',
  about:
    'A flow went well, and its result was kept from the client: it is not what the endpoint promises, or too large.',
  todo: 'Mend the result of the flow, or what the endpoint says that the tool returns.',
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
          title: `The client was not given what ${tool} came to: ${wrong}`,
          why: `The flow is done, and what it did is done. Endpoint "${endpoint}" promises another result, so the client was told an error.`,
          fix: `Mend the result of flow "${flow}", or what endpoint "${endpoint}" says that ${tool} returns.`,
          place: { endpoint },
          about: [endpoint, tool],
          severity: 'doubt' as const,
        },
      ];
    }),
};
