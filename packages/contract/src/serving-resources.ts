import { anyJson } from '@pindro/core/browser';
import { z } from 'zod';

const json = anyJson;
const jsonObject = z.record(z.string(), json);

/** Who supplies one argument of a tool, for a table of them. */
export const argumentRow = z.object({
  name: z.string(),
  type: z.string().describe('What it takes, in words'),
  required: z.boolean(),
  description: z.string(),
  supplied: z.enum(['asked', 'set', 'left out']),
  value: json.nullable().describe('What the builder set'),
  rule: z
    .enum(['own', 'server'])
    .nullable()
    .describe('Where the rule is that applies: on the endpoint, or on the whole tool server; null where none does'),
});

export const exposedTool = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  schema: jsonObject.describe('What the client sees'),
  outputSchema: jsonObject.nullable().describe('What the result is certain to look like'),
  annotations: jsonObject.describe('What it does to the world, as MCP names it'),
  worked: jsonObject.describe('The annotations as worked out, before anybody corrected them'),
  arguments: z.array(argumentRow),
  target: z.string().describe('flow NAME, or SERVER.TOOL'),
  own: z.object({ title: z.string(), description: z.string() }).describe('The words of the flow or tool itself'),
  worded: z.array(z.string()).describe('What was worded here, over the flow or tool'),
  set: z.array(z.string()).describe('Arguments that the builder sets'),
  tokens: z.number().describe('About how many tokens a model reads for it'),
  trouble: z.string().nullable().describe('Why it cannot be called, if so'),
  icon: z.string().nullable().describe('Where its picture is'),
  credential: z
    .enum(['workspace', 'caller'])
    .nullable()
    .describe('For a tool of a server: whose credential goes along'),
  passed: z.boolean().describe('Whether it is there because its whole server is'),
});

export const remark = z.object({
  id: z.string(),
  code: z.string(),
  weight: z.enum(['hurts', 'could be better']),
  tool: z.string().nullable(),
  argument: z.string().nullable(),
  title: z.string(),
  why: z.string(),
  instead: z.string(),
  fix: json.nullable().describe('What applying it changes; null where somebody has to think'),
});
export const review = z.object({
  remarks: z.array(remark),
  tokens: z.number().describe('About how many tokens the whole list takes'),
  sent: z.array(jsonObject).describe('The list exactly as a client receives it'),
});

export const toolboxReview = review.extend({
  places: z
    .array(z.object({ row: z.number(), own: z.string().nullable() }))
    .describe('Where each of what is sent stands: its row in the toolbox, and its own name there; null for a flow'),
});
/** A tool that may be chosen. */
export const toolChoice = z.object({
  from: z.enum(['server', 'endpoint', 'flow']),
  source: z.string().describe('The server, endpoint or flow'),
  tool: z.string().describe('Its name there; of a flow the name of the flow'),
  title: z.string(),
  description: z.string(),
  note: z.string().describe('What to know before it is chosen; empty where there is nothing'),
});

export const openSession = z.object({
  id: z.string().describe('Names the session for ending it; not the id the client uses'),
  client: z.string(),
  version: z.string(),
  key: z.string(),
  caller: z.string(),
  stage: z.string(),
  transport: z.enum(['http', 'sse', 'stateless']),
  since: z.string(),
  lastUsed: z.string(),
  listening: z.boolean().describe('Whether it has a stream open on which it hears of changes'),
  lists: z.number().describe('How often it asked for the list'),
  calls: z.number(),
});

/** What happened on an endpoint, for a line that follows it. */
export const happening = z.object({
  at: z.string(),
  kind: z.enum(['connected', 'listed', 'called', 'left', 'refused']),
  client: z.string(),
  text: z.string(),
  run: z.string().nullable(),
});

export const usageRow = z.object({
  tool: z.string(),
  calls: z.number(),
  failed: z.number(),
  callers: z.array(z.object({ caller: z.string(), calls: z.number() })),
  p50: z.number().nullable().describe('Milliseconds'),
  p95: z.number().nullable().describe('Milliseconds'),
  refused: z.array(z.object({ argument: z.string(), times: z.number() })).describe('Arguments refused most often'),
});
export const usage = z.object({
  tools: z.array(usageRow),
  over: z
    .array(
      z.object({
        from: z.string(),
        calls: z.number(),
        failed: z.number(),
        p50: z.number().nullable(),
        p95: z.number().nullable(),
      }),
    )
    .describe('The same in equal parts of the time'),
  total: usageRow.omit({ tool: true }),
});

export const selfTest = z.object({
  well: z.boolean(),
  steps: z.array(
    z.object({
      what: z.string(),
      state: z.enum(['well', 'failed', 'not tried']),
      found: z.string(),
      fix: z.string().nullable(),
    }),
  ),
});

export type ArgumentRow = z.infer<typeof argumentRow>;
export type ExposedTool = z.infer<typeof exposedTool>;
export type Remark = z.infer<typeof remark>;
export type ToolboxReview = z.infer<typeof toolboxReview>;
export type ToolChoice = z.infer<typeof toolChoice>;
export type Review = z.infer<typeof review>;
export type OpenSession = z.infer<typeof openSession>;
export type Happening = z.infer<typeof happening>;
export type Usage = z.infer<typeof usage>;
export type UsageRow = z.infer<typeof usageRow>;
export type SelfTest = z.infer<typeof selfTest>;
