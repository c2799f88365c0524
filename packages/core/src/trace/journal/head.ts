import { z } from 'zod';
import { anyJson } from '../../json/any-json.js';
import { stage } from '../spans/states.js';

/** On whose behalf a run happens, with what may be used as `caller.…` in expressions. */
const callerSchema = z.object({
  id: z.string(),
  attributes: z.record(z.string(), anyJson),
  /** Names of credentials of the caller's own, by the tool server they are for. No expression sees them. */
  credentials: z.record(z.string(), z.string()).optional(),
});
export type Caller = z.infer<typeof callerSchema>;

/** Sources of runs. */
export const ENTRIES = ['hand', 'chat', 'tool', 'flow', 'agent', 'again', 'hook', 'form', 'schedule'] as const;
export type Entry = (typeof ENTRIES)[number];

/** How a try-out, or doing a run again, differs from an ordinary run. */
const trialSchema = z.object({
  /** The one step that is done; all others stand as the run it borrows from left them. */
  only: z.string().optional(),
  /** Steps with stubbed results. */
  held: z.array(z.string()).optional(),
  /** Where the document was another than the flow's, by JSON Pointer. */
  changed: z.array(z.string()).optional(),
  /** Steps whose agents worked again with what was recorded of their calls. */
  rehearsed: z.array(z.string()).optional(),
  /** Whether it pauses before each step. */
  stepping: z.boolean().optional(),
});
export type Trial = z.infer<typeof trialSchema>;

/** The tool call from outside that a run answers. */
const throughSchema = z.object({
  endpoint: z.string(),
  tool: z.string(),
  /** The id of the access key. */
  key: z.string(),
  /** What the client calls itself. */
  client: z.string(),
});
export type Through = z.infer<typeof throughSchema>;

/** Properties of a run that are fixed at its start. */
export const headSchema = z.object({
  id: z.string(),
  traceId: z.string(),
  /** Span of the run in its parent, or null. */
  parentSpan: z.string().nullable(),
  /** What vendors added to the trace context of the caller, forwarded with every request. */
  traceState: z.string().optional(),
  parentRun: z.string().nullable(),
  flow: z.string(),
  /** The published revision, or null for the draft. */
  revision: z.number().nullable(),
  stage,
  entry: z.enum(ENTRIES),
  caller: callerSchema,
  session: z.string().nullable(),
  input: anyJson,
  /** In milliseconds since the epoch. */
  startedAt: z.number(),
  /** Span of the run itself, for resuming. */
  span: z.string(),
  trial: trialSchema.optional(),
  /** Whether all exchanges are captured. */
  exact: z.boolean().optional(),
  through: throughSchema.optional(),
});
export type RunHead = z.infer<typeof headSchema>;
