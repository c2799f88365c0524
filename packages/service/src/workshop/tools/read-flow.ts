import { z } from 'zod';
import { defineTool } from './tool.js';

export const readFlow = defineTool({
  name: 'read_flow',
  title: 'Read how a flow is built',
  about: 'Gives the whole document of a flow as YAML, to propose a change of it with propose_flow.',
  input: z.strictObject({
    flow: z.string().describe('Name of the flow'),
    version: z
      .union([z.enum(['draft', 'live']), z.number().int().min(1)])
      .default('draft')
      .describe('The draft, what is live, or the number of a revision'),
  }),
  reads: true,
  wider: true,
  call: ({ flow, version }, { workshop, flows }) => {
    workshop.requireOpen(flow);
    const { text } = flows.version(flow, String(version));
    return { result: { flow, version: String(version), document: text } };
  },
});
