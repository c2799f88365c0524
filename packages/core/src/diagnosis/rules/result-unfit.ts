import { attribute } from '../../trace/attributes.js';
import type { DiagnosisRule } from '../rule.js';

export const resultUnfit: DiagnosisRule = {
  code: 'result_unfit',
  about: 'A tool gave back something else than its server promises.',
  todo: 'Tell whoever keeps the server; read the field that is there.',
  look: (trace) =>
    trace.of('tool').flatMap((span) => {
      const unfit = span.attributes[attribute.unfit];
      if (typeof unfit !== 'string') return [];
      const [server, tool] = [attribute.server, attribute.ownTool].map((name) => String(span.attributes[name] ?? ''));
      return [
        {
          span: span.spanId,
          title: `What ${tool} of ${server} gave back is not what it promises: ${unfit}`,
          why: 'It was handed on all the same: what was done is done.',
          fix: 'Tell whoever keeps the server, and do not count on that field.',
          place: { server: server! },
          about: [server, tool],
          severity: 'warning' as const,
        },
      ];
    }),
};
