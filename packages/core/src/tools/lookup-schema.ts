import { z } from 'zod';
import { anyJson } from '../any-json.js';
import type { Lookup } from '../ports.js';

/** Where the values of an argument or an input come from: a tool of a server, a flow, or a column of a table. */
export const lookupSchema: z.ZodType<Lookup> = z.strictObject({
  server: z.string().optional().describe('The tool server; the one of the tool itself if left out'),
  tool: z.string().optional().describe('A tool that lists them'),
  flow: z.string().optional().describe('Or a flow that lists them'),
  table: z.string().optional().describe('Or a table'),
  arguments: z.record(z.string(), anyJson).optional().describe('Of the tool, or input of the flow'),
  with: z.array(z.string()).optional().describe('Other fields that are sent along under their own names'),
  items: z.string().optional().describe('Dotted path to the list in the result'),
  value: z.string().optional().describe('The field or column that holds the value'),
  label: z.string().optional().describe('The field or column that people read'),
});
