import { FORWARDED, READ_ON } from '../../../agent/calls/forward-result.js';
import { isObject } from '../../../json/json.js';
import { humanSize } from '../../../json/size.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { Span } from '../../../trace/spans/span.js';
import type { IndexedTrace } from '../../indexed.js';
import { type DiagnosisRule, placeInStep } from '../../rule.js';

const toolOf = ({ attributes }: Span) => String(attributes[attribute.tool] ?? '');

/** How much of a result in characters its model was handed, and how much there was; null where it got all of it. */
function cutOf({ output, attributes }: Span): { shown: number; of: number } | null {
  const cut = attributes[attribute.cutTo];
  if (isObject(cut)) return { shown: Number(cut.shown), of: Number(cut.of) };
  return isObject(output) && output.cut === true ? { shown: FORWARDED, of: Number(output.characters) } : null;
}

const readsOn = (one: Span, tool: string) => toolOf(one) === READ_ON && isObject(one.input) && one.input.tool === tool;

/** Calls whose results were cut, and of which the model read no more. */
const unread = (trace: IndexedTrace, agent: Span) => {
  const calls = trace.children(agent).filter(({ work, status }) => work === 'tool' && status === 'ok');
  return calls.flatMap((call) => {
    const cut = cutOf(call);
    return cut && !calls.some((one) => one.start >= call.start && readsOn(one, toolOf(call))) ? [{ call, cut }] : [];
  });
};

export const resultCut: DiagnosisRule = {
  code: 'result_cut',
  about: 'A model received only the beginning of a large result, and answered without reading more.',
  todo: "Forward only the relevant fields and rows (the tool's result settings in the toolbox), or request less from the tool.",
  look: (trace) =>
    trace.of('agent').flatMap((agent) =>
      unread(trace, agent).map(({ call, cut }) => ({
        span: call.spanId,
        title: `The model received ${humanSize(cut.shown)} of the ${humanSize(cut.of)} that "${toolOf(call)}" returned, and read no more`,
        why: 'The answer is based on that part only.',
        fix: 'Choose the relevant fields and rows of the result in the toolbox, or request less from the tool.',
        place: placeInStep(agent, trace, '/with/toolbox'),
        about: [toolOf(call), String(call.attributes[attribute.server] ?? '')],
        severity: 'warning' as const,
      })),
    ),
};
