import { type Json, PindroError } from '@pindro/core';
import { z } from 'zod';
import { shortened } from '../contract.js';
import { defineTool } from './tool.js';

export const explainRun = defineTool({
  name: 'explain_run',
  title: 'Explain a run',
  about:
    'Shows one run: what went in and came out, each step with its outcome, and what the diagnosis found: why it failed and what to change where. Long values are cut.',
  input: z.strictObject({ run: z.string().describe('Id of the run, as look_at_runs or perform_flow give it') }),
  reads: true,
  wider: false,
  call: ({ run: id }, { workshop, runs, runner }, { access: { stage } }) => {
    const unknown = () =>
      new PindroError('not_found', { what: 'run', name: id, suggestion: 'Use look_at_runs to find it.' });
    const open = workshop.open();
    const tree = runs.tree(requireText(id, unknown));
    const { head, state, result, error, endedAt } = tree[0]!;
    // A run of a closed flow is not there for an assistant, nor one of the other stage.
    if (!open.includes(head.flow) || head.stage !== stage) throw unknown();
    const seen = new Set(tree.filter((one) => open.includes(one.head.flow)).map((one) => one.head.id));
    const spans = runs.spans(tree);
    const findings = runs.findings(tree, spans).map(({ title, why, fix, place, run, severity }) =>
      seen.has(run)
        ? { severity, title, why, fix, place: place as Json }
        : {
            severity,
            title: 'It went wrong in a flow that is not open to you',
            why: '',
            fix: 'Ask whoever builds it.',
          },
    );
    const steps = spans
      .filter(({ work, run }) => work === 'step' && seen.has(run))
      .map(({ name, status, start, end, output, error: failed, run, attributes }) => ({
        step: name,
        ...(run !== head.id && { in_flow: tree.find((one) => one.head.id === run)!.head.flow }),
        ...(attributes['pindro.kind'] !== undefined && { kind: attributes['pindro.kind'] }),
        state: status,
        took_ms: end === null ? null : Math.round(end - start),
        ...(output !== undefined && { output: shortened(output, 800) }),
        ...(failed && { error: `${failed.message}. ${failed.hint}` }),
      }));
    return {
      result: {
        run: head.id,
        address: runner.urlOf(head.id),
        flow: head.flow,
        revision: head.revision ?? 'the draft',
        state,
        took_ms: endedAt === null ? null : endedAt - head.startedAt,
        input: shortened(head.input),
        result: shortened(result),
        error: error ? `${error.message}. ${error.hint}` : null,
        findings: findings as Json,
        steps: steps as unknown as Json,
      },
    };
  },
});

function requireText(id: string, otherwise: () => PindroError): string {
  if (!/^[\w-]{1,64}$/.test(id)) throw otherwise();
  return id;
}
