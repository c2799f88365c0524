import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { DiagnosisRule, Draft } from '../../rule.js';
import { detail, failureRule } from '../../rule.js';

const called = failureRule({
  code: 'tool_held',
  about: 'A tool is on hold because its server changed it, and nobody has accepted the change.',
  todo: 'Review the change, and accept it if you want it.',
  codes: ['tool_held'],
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: `The definition of the tool on tool server "${server}" differs from the accepted one.`,
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
          title: `The agent had to continue without ${tool} of "${server}": ${entry.why}`,
          why: 'A chosen tool is on hold until somebody accepts the change by its server.',
          fix: `Review the change, and accept or reject it: pindro server changes ${server}`,
          place: { server },
          about: ['toolbox', server, tool],
          severity: 'warning' as const,
        };
      });
    }),
  ],
};
