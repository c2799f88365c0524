import { anyJson, suggestion } from '@pindro/core/browser';
import { z } from 'zod';

export type { Suggestion } from '@pindro/core/browser';

const json = anyJson;
const jsonObject = z.record(z.string(), json);

/** Supplier of one argument of a tool, as a table row. */
export const argumentRow = z.object({
  name: z.string(),
  type: z.string().describe('Description of the input'),
  required: z.boolean(),
  description: z.string(),
  supplied: z.enum(['asked', 'set', 'omitted']),
  value: json.nullable().describe('Values set by the builder'),
  rule: z
    .enum(['own', 'server'])
    .nullable()
    .describe('Location of the applicable rule: on the endpoint, or on the whole tool server; null for none'),
});

export const exposedTool = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  schema: jsonObject.describe('Client view'),
  outputSchema: jsonObject.nullable().describe('Certain parts of the result schema'),
  annotations: jsonObject.describe('Side effects as MCP annotations'),
  worked: jsonObject.describe('Derived annotations, before corrections'),
  arguments: z.array(argumentRow),
  target: z.string().describe('flow NAME, or SERVER.TOOL'),
  own: z.object({ title: z.string(), description: z.string() }).describe('Original description of the flow or tool'),
  worded: z.array(z.string()).describe('Overrides on this endpoint'),
  set: z.array(z.string()).describe('Arguments that the builder sets'),
  tokens: z.number().describe('Estimated tokens of its definition'),
  trouble: z.string().nullable().describe('Why it cannot be called, if so'),
  icon: z.string().nullable().describe('Address of its icon'),
  credential: z.enum(['workspace', 'caller']).nullable().describe('For a tool of a server: whose credential is sent'),
  passed: z.boolean().describe('Whether it comes from a whole server'),
});

export const review = z.object({
  suggestions: z.array(suggestion),
  tokens: z.number().describe('Estimated tokens of the whole list'),
  sent: z.array(jsonObject).describe('The list exactly as a client receives it'),
});

export const toolboxReview = review.extend({
  places: z
    .array(z.object({ row: z.number(), own: z.string().nullable() }))
    .describe('Source of each entry: its row in the toolbox, and its own name there; null for a flow'),
});
/** A tool that can be chosen. */
export const toolChoice = z.object({
  from: z.enum(['server', 'endpoint', 'flow']),
  source: z.string().describe('Server, endpoint or flow'),
  tool: z.string().describe('Its name there; for a flow the name of the flow'),
  title: z.string(),
  description: z.string(),
  note: z.string().describe('What to know before choosing it; may be empty'),
});

export const openSession = z.object({
  id: z.string().describe("Identifies the session for ending it; not the client's session ID"),
  client: z.string(),
  version: z.string(),
  key: z.string(),
  caller: z.string(),
  stage: z.string(),
  transport: z.enum(['http', 'sse', 'stateless']),
  since: z.string(),
  lastUsed: z.string(),
  listening: z.boolean().describe('Whether it has a stream open for notifications'),
  lists: z.number().describe('Number of list requests'),
  calls: z.number(),
});

/** An event on an endpoint. */
export const endpointEvent = z.object({
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
  refused: z.array(z.object({ argument: z.string(), times: z.number() })).describe('Arguments rejected most often'),
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
    .describe('The same in equal time intervals'),
  total: usageRow.omit({ tool: true }),
});

export const selfTest = z.object({
  ok: z.boolean(),
  steps: z.array(
    z.object({
      what: z.string(),
      state: z.enum(['passed', 'failed', 'not tested']),
      found: z.string(),
      fix: z.string().nullable(),
    }),
  ),
});

export type ArgumentRow = z.infer<typeof argumentRow>;
export type ExposedTool = z.infer<typeof exposedTool>;
export type ToolboxReview = z.infer<typeof toolboxReview>;
export type ToolChoice = z.infer<typeof toolChoice>;
export type Review = z.infer<typeof review>;
export type OpenSession = z.infer<typeof openSession>;
export type EndpointEvent = z.infer<typeof endpointEvent>;
export type Usage = z.infer<typeof usage>;
export type UsageRow = z.infer<typeof usageRow>;
export type SelfTest = z.infer<typeof selfTest>;
