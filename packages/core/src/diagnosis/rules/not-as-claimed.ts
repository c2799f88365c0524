import type { Span } from '../../trace/span.js';
import type { Cure } from '../finding.js';
import { type IndexedTrace, settingAt, stepPointer } from '../indexed.js';
import { type DiagnosisRule, placeInStep } from '../rule.js';

const PLAINLY =
  'Claim nothing that no call of yours has done, and say plainly what failed, was refused or still waits.';

/** The instructions with a line more, where they do not have it yet. */
function plainly(agent: Span | undefined, trace: IndexedTrace): Cure | null {
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
  about: 'An answer claims something that the calls do not bear out.',
  todo: 'Read the receipt; say in the instructions that failures are to be told.',
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
              ? `By the record: ${open.slice(0, 3).join('; ')}.`
              : 'By the record nothing was called that does anything.',
          fix: 'Mend what failed. Say in the instructions that what did not work is to be told as that.',
          place: placeInStep(agent, trace, '/with/instructions'),
          cure: plainly(agent, trace),
          quotes: receipt.open.slice(0, 2).map(({ says }) => says),
          about: [receipt.open[0]?.tool, receipt.open[0]?.state],
          severity: run.state === 'done' ? ('doubt' as const) : ('warning' as const),
        },
      ];
    }),
};
