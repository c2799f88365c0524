import { isObject } from '../../json.js';
import { attribute } from '../../trace/attributes.js';
import type { DiagnosisRule, Draft } from '../rule.js';
import { detail, failureRule } from '../rule.js';

const called = failureRule({
  code: 'tool_held',
  about: 'A tool is held back, because its server changed it and nobody has accepted that.',
  todo: 'Review what changed, and accept it by its name if it is what you want.',
  codes: ['tool_held'],
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: `Tool server "${server}" says something else of the tool now than what was accepted.`,
      fix: failure.error.hint,
      place: { server },
    };
  },
});

/** What an agent was not offered because of that. */
export const toolHeld: DiagnosisRule = {
  ...called,
  look: (trace, facts) => [
    ...called.look(trace, facts),
    ...trace.of('agent').flatMap((span): Draft[] => {
      const held = span.attributes[attribute.heldTools];
      return (Array.isArray(held) ? held : []).filter(isObject).map((entry) => {
        const [server, tool] = [String(entry.server), String(entry.tool)];
        return {
          span: span.spanId,
          title: `The agent had to do without ${tool} of "${server}": ${entry.why}`,
          why: 'A tool that was chosen is held back until somebody accepts what its server changed.',
          fix: `Look at what changed, and accept it or not: pindro server changes ${server}`,
          place: { server },
          about: ['toolbox', server, tool],
          severity: 'warning' as const,
        };
      });
    }),
  ],
};
