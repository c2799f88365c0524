import { attribute } from '../../../trace/spans/attributes.js';
import type { DiagnosisRule } from '../../rule.js';

export const resultUnfit: DiagnosisRule = {
  code: 'result_unfit',
  about: 'A tool returned something other than its output schema promises.',
  todo: 'Report it to the operator of the server. Read the field that exists.',
  look: (trace) =>
    trace.of('tool').flatMap((span) => {
      const unfit = span.attributes[attribute.unfit];
      if (typeof unfit !== 'string') return [];
      const [server, tool] = [attribute.server, attribute.ownTool].map((name) => String(span.attributes[name] ?? ''));
      return [
        {
          span: span.spanId,
          title: `The result of ${tool} of ${server} does not match its output schema: ${unfit}`,
          why: 'The result was forwarded anyway: the call is done.',
          fix: 'Report it to the operator of the server, and do not rely on that field.',
          place: { server: server! },
          about: [server, tool],
          severity: 'warning' as const,
        },
      ];
    }),
};
