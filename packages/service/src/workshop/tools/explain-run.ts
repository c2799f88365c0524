import { asJson, attribute, PindroError, withHint } from '@pindro/core';
import { z } from 'zod';
import { shortened } from '../contract.js';
import { seenRun } from '../seen.js';
import { defineTool } from './tool.js';

export const explainRun = defineTool({
  name: 'explain_run',
  title: 'Explain a run',
  about:
    'Shows one run: its input and output, each step with its outcome, and the findings: why it failed and what to change where. Long values are truncated.',
  input: z.strictObject({ run: z.string().describe('ID of the run, from look_at_runs or perform_flow') }),
  reads: true,
  wider: false,
  call: ({ run: id }, { workshop, runs, runner }, { access: { stage } }) => {
    const open = workshop.open();
    const head = runs.find(id)?.head;
    // A run of a closed flow is not there for an assistant, nor one of the other stage.
    if (!head || !open.includes(head.flow) || head.stage !== stage)
      throw new PindroError('not_found', { what: 'run', name: id, suggestion: 'Use look_at_runs to find it.' });
    const { run, spans, findings, flowOf } = seenRun(id, open, runs);
    const { state, result, error, endedAt } = run;
    const steps = spans
      .filter(({ work }) => work === 'step')
      .map(({ name, status, start, end, output, error: failed, run, attributes }) => ({
        step: name,
        ...(run !== head.id && { in_flow: flowOf(run) }),
        ...(attributes[attribute.kind] !== undefined && { kind: attributes[attribute.kind] }),
        state: status,
        took_ms: end === null ? null : Math.round(end - start),
        ...(output !== undefined && { output: shortened(output, 800) }),
        ...(failed && { error: withHint(failed) }),
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
        error: error ? withHint(error) : null,
        findings: asJson(findings),
        steps: asJson(steps),
      },
    };
  },
});
