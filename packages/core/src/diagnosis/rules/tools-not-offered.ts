import { attribute } from '../../trace/attributes.js';
import { type DiagnosisRule, type Draft, placeInStep } from '../rule.js';

export const noTools: DiagnosisRule = {
  code: 'tools_not_offered',
  about: 'An agent was offered no tool, or a pattern in its toolbox fits none.',
  todo: 'Correct the pattern, or look at why the server lists nothing.',
  look: (trace) =>
    trace.of('agent').flatMap((span): Draft[] => {
      const step = trace.stepOf(span);
      if (!step) return [];
      const { toolbox } = trace.written(step);
      const idle = span.attributes[attribute.idlePatterns];
      const patterns = Array.isArray(idle) ? idle.map(String) : [];
      const tools = span.attributes[attribute.tools];
      const none = Array.isArray(tools) && tools.length === 0 && Array.isArray(toolbox) && toolbox.length > 0;
      if (!none && patterns.length === 0) return [];
      const which = patterns.map((pattern) => `"${pattern}"`).join(', ');
      return [
        {
          span: span.spanId,
          title: none
            ? `The agent "${step.name}" was offered no tool at all`
            : `${which} in the toolbox of "${step.name}" fits no tool`,
          why:
            patterns.length > 0
              ? `Nothing that is there now has a name like ${which}.`
              : 'What its toolbox names lists no tools now.',
          fix: 'Correct the names in the toolbox; the names that there are stand beside it in the editor.',
          place: placeInStep(span, trace, '/with/toolbox'),
          about: [step.name, ...patterns],
          severity: none && span.status !== 'error' ? 'doubt' : 'warning',
        },
      ];
    }),
};
