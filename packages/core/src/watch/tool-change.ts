import { z } from 'zod';

/** One thing about a tool that is another now. */
export const toolPart = z.object({
  at: z.string().describe('title, description, annotations/NAME, arguments/NAME, result, task or schema'),
  before: z.string().nullable().describe('null if there was none'),
  after: z.string().nullable(),
});
export type ToolPart = z.infer<typeof toolPart>;

/** How one tool differs between two lists. */
export const toolChange = z.object({
  tool: z.string(),
  kind: z.enum(['new', 'gone', 'renamed', 'changed']),
  was: z.string().nullable().describe('Former name of a renamed tool'),
  parts: z.array(toolPart),
  breaks: z.array(z.string()).describe('Consequences for its users, as sentences'),
});
export type ToolChange = z.infer<typeof toolChange>;
