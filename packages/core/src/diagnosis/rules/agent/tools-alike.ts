import { isObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { Span } from '../../../trace/spans/span.js';
import type { IndexedTrace } from '../../indexed.js';
import { type DiagnosisRule, firstWords, placeInStep, quoted, settingOfTool } from '../../rule.js';

const toolOf = ({ attributes }: Span) => String(attributes[attribute.tool] ?? '');

/** How much of what one call was given the other was given too, from 0 to 1. */
function shared(one: Span, other: Span): number {
  const [a, b] = [one.input, other.input];
  if (!isObject(a) || !isObject(b)) return 0;
  const names = Object.keys(a);
  if (names.length === 0) return 0;
  return names.filter((name) => JSON.stringify(a[name]) === JSON.stringify(b[name])).length / names.length;
}

/** The first sentence of what a model read of a tool. */
function saysOf(tool: string, agent: Span, trace: IndexedTrace): string {
  const offered = trace
    .children(agent)
    .flatMap(({ attributes }) => [attributes[attribute.offered] ?? []].flat())
    .find((one) => isObject(one) && one.name === tool);
  const description = isObject(offered) ? String(offered.description ?? '') : '';
  return firstWords(description.split(/[.\n]/)[0]!, 120);
}

/** The model took the wrong one of two tools first: what it sent fitted another, which it then called. */
export const toolsAlike: DiagnosisRule = {
  code: 'tools_alike',
  about: 'A model called one tool where another was meant, and corrected itself: the two are hard to tell apart.',
  todo: 'Describe with "when" what each is for, or remove one from the toolbox.',
  look: (trace) =>
    trace.of('agent').flatMap((agent) => {
      const calls = trace
        .children(agent)
        .filter(({ work }) => work === 'tool')
        .toSorted((a, b) => a.start - b.start);
      return calls.flatMap((wrong, index) => {
        if (wrong.error?.code !== 'arguments_refused' && wrong.error?.code !== 'tool_reported_error') return [];
        const meant = calls
          .slice(index + 1)
          .find((one) => !one.error && toolOf(one) !== toolOf(wrong) && shared(wrong, one) > 0.5);
        if (!meant) return [];
        const says = saysOf(toolOf(meant), agent, trace);
        const hint = `${says ? `Not for “${says}”` : 'Not for that'}: call ${toolOf(meant)} instead.`;
        return [
          {
            cure: settingOfTool(wrong, trace, 'when', (now) => (now.includes(hint) ? null : `${now} ${hint}`.trim())),
            span: wrong.spanId,
            explains: [wrong.spanId],
            title: `The model called "${toolOf(wrong)}" where "${toolOf(meant)}" was meant: it cannot tell them apart`,
            why: `It sent ${quoted(wrong.input)}, received an error, and then sent the same to the other one.`,
            fix: 'Describe in the toolbox, with "when", what each of the two is for, or offer only one of them.',
            place: placeInStep(agent, trace, '/with/toolbox'),
            about: [toolOf(wrong), toolOf(meant)],
            severity: 'warning' as const,
          },
        ];
      });
    }),
};
