import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import { type DiagnosisRule, placeInStep } from '../../rule.js';

export const noBranch: DiagnosisRule = {
  code: 'no_branch_taken',
  about: 'No condition of a choose step was true, and no step follows the branch "otherwise".',
  todo: 'Add a step after "otherwise", or check why no condition was true.',
  look: (trace) =>
    trace.of('step').flatMap((span) => {
      if (span.attributes[attribute.kind] !== 'choose' || span.attributes[attribute.branch] !== 'otherwise') return [];
      const { document } = trace.runOf(span);
      const steps = isObject(document) && isObject(document.steps) ? Object.values(document.steps) : [];
      const follows = JSON.stringify(steps.map((step) => (isObject(step) ? (step.after ?? null) : null)));
      const isFollowed = follows.includes(`"${span.name}.otherwise"`) || follows.includes(`"${span.name}"`);
      if (document === undefined || isFollowed || !follows.includes(`"${span.name}.`)) return [];
      return [
        {
          span: span.spanId,
          title: `No branch of "${span.name}" was taken, and nothing ran after it`,
          why: 'None of its conditions was true, and no step follows "otherwise".',
          fix: 'Add a step after "otherwise", or correct the conditions.',
          place: placeInStep(span, trace, '/with/when'),
          about: [span.name],
          severity: 'doubt' as const,
        },
      ];
    }),
};
