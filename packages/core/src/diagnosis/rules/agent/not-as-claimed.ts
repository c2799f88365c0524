import type { Span } from '../../../trace/spans/span.js';
import type { ProposedFix } from '../../finding.js';
import { type IndexedTrace, settingAt, stepPointer } from '../../indexed.js';
import { type DiagnosisRule, placeInStep } from '../../rule.js';

const PLAINLY =
  'Claim only what one of your calls has done, and state plainly what failed, was rejected or is still waiting.';

/** The instructions with a line more, where they do not have it yet. */
function plainly(agent: Span | undefined, trace: IndexedTrace): ProposedFix | null {
  const step = agent && trace.stepOf(agent);
  if (!step) return null;
  const { instructions = '' } = trace.written(step);
  if (typeof instructions !== 'string' || instructions.includes(PLAINLY)) return null;
  const { flow, document } = trace.runOf(step);
  const to = instructions === '' ? PLAINLY : `${instructions.trimEnd()}\n\n${PLAINLY}`;
  const change = settingAt(document, `${stepPointer(step)}/with/instructions`, to);
  return change && { do: 'change', flow, ...change };
}

export const claims: DiagnosisRule = {
  code: 'not_as_claimed',
  about: 'An answer claims something that its tool calls do not support.',
  todo: 'Read the receipt. Add to the instructions that failures must be reported.',
  look: (trace) =>
    trace.runs.flatMap((run) => {
      const { receipt } = run;
      // Whoever handed the work on has it in their own receipt.
      if (!receipt?.contradicts || receipt.end === 'length' || run.parentRun !== null) return [];
      const agent = trace.of('agent').findLast((span) => span.run === run.id);
      const open = receipt.open.map(({ tool, state, says }) => `${tool.replaceAll('_', ' ')} ${state}: ${says}`);
      return [
        {
          span: agent?.spanId ?? '',
          title: receipt.contradicts,
          why:
            open.length > 0
              ? `According to the record: ${open.slice(0, 3).join('; ')}.`
              : 'According to the record, no tool that changes anything was called.',
          fix: 'Fix what failed. Add to the instructions that failures must be reported as failures.',
          place: placeInStep(agent, trace, '/with/instructions'),
          cure: plainly(agent, trace),
          quotes: receipt.open.slice(0, 2).map(({ says }) => says),
          about: [receipt.open[0]?.tool, receipt.open[0]?.state],
          severity: run.state === 'done' ? ('doubt' as const) : ('warning' as const),
        },
      ];
    }),
};
