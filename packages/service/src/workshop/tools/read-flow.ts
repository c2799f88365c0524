import { z } from 'zod';
import { defineTool } from './tool.js';

export const readFlow = defineTool({
  name: 'read_flow',
  title: 'Read the document of a flow',
  about: 'Returns the whole document of a flow as YAML, to propose a change with propose_flow.',
  input: z.strictObject({
    flow: z.string().describe('Name of the flow'),
    version: z
      .union([z.enum(['draft', 'live']), z.number().int().min(1)])
      .default('draft')
      .describe('The draft, the live revision, or a revision number'),
  }),
  reads: true,
  wider: true,
  call: ({ flow, version }, { workshop, flows }) => {
    workshop.requireOpen(flow);
    const { text } = flows.revisions.version(flow, String(version));
    return { result: { flow, version: String(version), document: text } };
  },
});
