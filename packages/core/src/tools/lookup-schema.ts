import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import type { Lookup } from '../ports/ports.js';

/** Source of the values of an argument or input: a tool of a server, a flow, or a column of a table. */
export const lookupSchema: z.ZodType<Lookup> = z.strictObject({
  server: z.string().optional().describe("Tool server; the tool's own server by default"),
  tool: z.string().optional().describe('Tool that lists the values'),
  flow: z.string().optional().describe('Or a flow that lists the values'),
  table: z.string().optional().describe('Or a table'),
  arguments: z.record(z.string(), anyJson).optional().describe('Arguments of the tool, or input of the flow'),
  with: z.array(z.string()).optional().describe('Other fields to send under their own names'),
  items: z.string().optional().describe('Dotted path to the list in the result'),
  value: z.string().optional().describe('Field or column with the value'),
  label: z.string().optional().describe('Field or column with the label'),
});
