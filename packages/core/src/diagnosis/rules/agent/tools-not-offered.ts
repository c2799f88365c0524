import { attribute } from '../../../trace/spans/attributes.js';
import { type DiagnosisRule, type Draft, placeInStep } from '../../rule.js';

export const noTools: DiagnosisRule = {
  code: 'tools_not_offered',
  about: 'An agent was offered no tools, or a pattern in its toolbox matches none.',
  todo: 'Correct the pattern, or check why the server lists nothing.',
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
            ? `The agent "${step.name}" was offered no tools`
            : `${which} in the toolbox of "${step.name}" matches no tool`,
          why:
            patterns.length > 0
              ? `No available tool has a name like ${which}.`
              : 'The sources in its toolbox list no tools at present.',
          fix: 'Correct the names in the toolbox. The editor lists the available names.',
          place: placeInStep(span, trace, '/with/toolbox'),
          about: [step.name, ...patterns],
          severity: none && span.status !== 'error' ? 'doubt' : 'warning',
        },
      ];
    }),
};
