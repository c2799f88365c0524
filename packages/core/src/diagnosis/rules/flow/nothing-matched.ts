import type { FlowDocument } from '../../../flow/document.js';
import { unmatchedSteps } from '../../../flow/unmatched.js';
import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import { type DiagnosisRule, placeInStep } from '../../rule.js';

export const nothingMatched: DiagnosisRule = {
  code: 'nothing_matched',
  about: 'A step updated or removed no row because none matched, and the flow continued.',
  todo: 'Add a step after the branch "none", or correct the conditions.',
  look: (trace) =>
    trace.of('step').flatMap((span) => {
      if (span.attributes[attribute.kind] !== 'table' || span.status !== 'ok') return [];
      const { output } = span;
      if (!isObject(output) || output.count !== 0 || output.refused === true) return [];
      const { document } = trace.runOf(span);
      if (!isObject(document) || !isObject(document.steps)) return [];
      const step = unmatchedSteps(document as unknown as FlowDocument).find(({ name }) => name === span.name);
      if (!step) return [];
      return [
        {
          span: span.spanId,
          title: `"${span.name}" changed nothing: no row of "${String(step.step.with?.table)}" matched`,
          why: 'No row matches its conditions, and no step of the flow checks for that.',
          fix: `Add a step after "${span.name}.none", or correct "where".`,
          place: placeInStep(span, trace, '/with/where'),
          about: [span.name],
          severity: 'doubt' as const,
        },
      ];
    }),
};
