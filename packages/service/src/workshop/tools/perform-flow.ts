import type { JsonObject } from '@pindro/core';
import { z } from 'zod';
import { defineTool } from './tool.js';

export const performFlow = defineTool({
  name: 'perform_flow',
  title: 'Perform a flow',
  about:
    'Runs a flow with real effects, and returns its result or why it failed. Read its contract first. If the flow waits for a person, the answer says so and names the run.',
  input: z.strictObject({
    flow: z.string().describe('Name of the flow, from survey_flows'),
    input: z.record(z.string(), z.unknown()).default({}).describe('Input of the flow, according to its contract'),
  }),
  reads: false,
  wider: false,
  call: async ({ flow, input }, parts, { access, session, run, endpoint, client, tool, trace, stop }) => {
    parts.workshop.requireOpen(flow);
    const { document, revision } = parts.flows.loadNow(flow, access.stage);
    const begun = parts.runner.begin(
      {
        document,
        revision,
        stage: access.stage,
        entry: 'tool',
        caller: access.caller,
        session: session || null,
        runId: run,
        input: input as JsonObject,
        through: { endpoint, tool: tool.name, key: access.id, client },
        ...trace,
      },
      stop,
    );
    return { outcome: await begun.outcome };
  },
});
