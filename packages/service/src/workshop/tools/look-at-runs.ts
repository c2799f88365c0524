import { runState } from '@pindro/core';
import { z } from 'zod';
import type { RunRecord } from '../../record/reading/run-store.js';
import { seenRun } from '../seen.js';
import { defineTool } from './tool.js';

export const lookAtRuns = defineTool({
  name: 'look_at_runs',
  title: 'List recent runs',
  about:
    'Lists recent runs of the flows that are open to you, newest first: time, entry point, duration, and the finding in one sentence. Use explain_run for details.',
  input: z.strictObject({
    flow: z.string().optional().describe('Only runs of this flow'),
    state: runState.optional().describe('Only runs in this state'),
    limit: z.number().int().min(1).max(50).default(10).describe('Maximum number'),
  }),
  reads: true,
  wider: false,
  call: async ({ flow, state, limit }, { workshop, runs }, { access: { stage } }) => {
    if (flow !== undefined) workshop.requireOpen(flow);
    const open = workshop.open();
    const flows = flow === undefined ? open : [flow];
    const wentWrong = (run: RunRecord) => {
      if (run.state !== 'failed' && run.state !== 'interrupted') return null;
      const { findings } = seenRun(run.head.id, open, runs);
      return findings.find(({ severity }) => severity === 'failure')?.title ?? run.error?.message ?? null;
    };
    const { items } = await runs.list({ flows, state, stage, limit });
    return {
      result: {
        runs: items.map((run) => ({
          run: run.head.id,
          flow: run.head.flow,
          state: run.state,
          began: new Date(run.head.startedAt).toISOString(),
          took_ms: run.endedAt === null ? null : run.endedAt - run.head.startedAt,
          came_by: run.head.through ? `tool ${run.head.through.endpoint}.${run.head.through.tool}` : run.head.entry,
          went_wrong: wentWrong(run),
        })),
      },
    };
  },
});
