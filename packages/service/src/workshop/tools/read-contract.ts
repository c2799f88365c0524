import { z } from 'zod';
import { changesSince, contractOf, effectWords, waysToCall } from '../contract.js';
import { defineTool } from './tool.js';

const REVISIONS = 10;

export const readContract = defineTool({
  name: 'read_contract',
  title: 'Read the contract of a flow',
  about:
    'Returns what a flow accepts and returns (JSON Schema), its side effects, and each way to call it: as a tool of an endpoint, as a webhook, as a form. With "since", also what changed for callers after that revision.',
  input: z.strictObject({
    flow: z.string().describe('Name of the flow, from survey_flows'),
    since: z.number().int().min(1).optional().describe('A revision you know, to list the changes after it'),
  }),
  reads: true,
  wider: false,
  call: ({ flow, since }, parts, { access: { stage } }) => {
    parts.workshop.requireOpen(flow);
    const { document, revision } = parts.flows.loadNow(flow, stage);
    const contract = contractOf(document, stage, parts);
    const revisions = parts.flows.revisions.list(flow).slice(0, REVISIONS);
    return {
      result: {
        flow,
        title: document.title ?? flow,
        description: contract.description,
        revision: revision ?? 'the draft',
        takes: contract.input,
        answers: contract.result ?? 'unknown before the call',
        does: effectWords(contract),
        ways_to_call: waysToCall(flow, stage, parts),
        revisions: revisions.map((one) => ({
          revision: one.revision,
          published: new Date(one.publishedAt).toISOString(),
          ...(one.note && { note: one.note }),
        })),
        ...(since !== undefined && { changed: changesSince(flow, since, contract, stage, parts) }),
      },
    };
  },
});
