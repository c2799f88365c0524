import { anyJson, argumentRules, flagSchema, toolChange, WATCHES } from '@pindro/core/browser';
import { z } from 'zod';
import { program, programFingerprint } from './program.js';
import { problem } from './resources.js';
import { serverLimits, serverNetwork } from './server-limits.js';
import { SPEAKS } from './transports.js';

/* What the service shows of tool servers. */

const moment = z.iso.datetime();
const jsonObject = z.record(z.string(), anyJson);

export const serverTool = z.object({
  name: z.string(),
  title: z.string().optional(),
  description: z.string(),
  inputSchema: jsonObject,
  outputSchema: jsonObject.optional(),
  allowed: z
    .enum(['allowed', 'refused'])
    .nullable()
    .describe("Whether the server accepted the workspace's credential the last time; null: not called yet"),
  annotations: jsonObject.optional().describe('Its annotations'),
});
/** Whether a program may run, with its fingerprint for review. */
export const programPermission = z.object({
  allowed: z.boolean(),
  fingerprint: programFingerprint.describe('Present program'),
  before: z
    .object({ by: z.string().nullable().describe('Who allowed it'), fingerprint: programFingerprint })
    .nullable()
    .describe('Allowed program; null for none'),
});
/** Settings of the review of tools by a model, with its usage. */
export const toolReviewSettings = z.object({
  model: z.string().nullable().describe('Model connection that reviews new and changed tools; null for none'),
  reviewed: z.number().describe('Number of evaluated tool versions'),
  flagged: z.number().describe('Number of versions found harmful'),
  tokens: z.number(),
  cost: z.number().describe("In the currency of the model's prices"),
});
export type ToolReviewSettings = z.infer<typeof toolReviewSettings>;
export type ProgramPermission = z.infer<typeof programPermission>;
export const speaks = z.enum(SPEAKS).describe('Streamable HTTP, the older HTTP+SSE, or a program (stdio)');
export const watch = z
  .enum(WATCHES)
  .describe('Policy for tool changes: all are on hold until accepted, flagged ones, or none');
export const serverSummary = z.object({
  name: z.string(),
  url: z.string().describe('Empty for a program on this machine'),
  program: program.nullable().describe('The program; null for an address'),
  where: z.string().describe('Its address, or its command line'),
  allowed: z.boolean().describe('Whether its program may run'),
  needsApproval: z.boolean().describe('Whether an owner must review its program before it runs (again)'),
  speaks,
  state: z
    .enum(['ready', 'trying', 'unreachable', 'refused', 'idle', 'off'])
    .describe('trying: no response since the start; idle: a program that is started on demand'),
  leftAloneUntil: moment.nullable().describe('Calls are rejected until then because of repeated failures'),
  trouble: z.string().nullable(),
  fix: z.string().nullable(),
  credential: z.string().nullable(),
  also: z.array(z.string()).describe('Additional credentials to send'),
  headers: z.record(z.string(), z.string()).describe('Headers without secrets'),
  limits: serverLimits,
  network: serverNetwork,
  watch,
  tools: z.number(),
  held: z.number().describe('Number of its tools on hold'),
  seenAt: moment.nullable().describe('Time of its last response'),
  about: z.string().describe('Name it reports'),
  instructions: z.string().describe('Instructions it reports'),
});
export const serverDetail = serverSummary.extend({
  toolList: z.array(serverTool),
  heldTools: z.array(z.object({ name: z.string(), why: z.string() })),
  rules: argumentRules,
  usedBy: z.array(z.string()),
  usedTools: z
    .array(z.object({ by: z.string(), tools: z.array(z.string()) }))
    .describe('Users, with the tools that they name; none: all of them, or by patterns'),
});

/** One recognized value that is sent with a connection; secrets are not shown. */
export const goingAlong = z.object({
  name: z.string(),
  value: z.string().describe('Empty for a secret'),
  secret: z.boolean(),
  missing: z.boolean().describe('Whether somebody must fill it in'),
  why: z.string().nullable().describe('Why the value was detected as a secret: its name, format or entropy'),
});
/** A tool server recognized in pasted text, without secrets. */
export const recognizedServerSummary = z.object({
  at: z.number().describe('Index among the recognized servers, from 0'),
  name: z.string().describe('Available name'),
  title: z.string(),
  url: z.string().nullable().describe('null for a program on this machine'),
  command: z.string().nullable(),
  speaks: speaks.nullable().describe('null if detected'),
  headers: z.array(goingAlong),
  query: z.array(goingAlong),
  args: z.array(goingAlong).describe('Arguments of the program that are secret or missing'),
  env: z.array(goingAlong).describe('Environment of the program'),
  repairs: z.array(z.string()).describe('Corrections, as sentences'),
  cannot: z.string().nullable().describe('Why it cannot be attached'),
});
export type ServerSummary = z.infer<typeof serverSummary>;
export type ServerDetail = z.infer<typeof serverDetail>;
export type RecognizedServerSummary = z.infer<typeof recognizedServerSummary>;

/** Progress of one stage of a connection test. */
export const testPart = z.object({
  part: z
    .enum(['name', 'reach', 'program', 'speak', 'allow', 'list'])
    .describe('Name resolved, host reached, program started, MCP handshake, access granted, tools listed'),
  state: z.enum(['begun', 'done', 'failed']),
  says: z.string().describe('What was found'),
  took: z.number().nullable().describe('In milliseconds'),
});
export const testEvent = z.discriminatedUnion('type', [
  testPart.extend({ type: z.literal('part') }),
  z.object({ type: z.literal('attached'), server: serverDetail }),
  z.object({ type: z.literal('failed'), problem }),
]);
export type TestPart = z.infer<typeof testPart>;
export type TestEvent = z.infer<typeof testEvent>;

/** Differences between the tools of a server and the accepted ones. */
export const serverChanges = z.object({
  name: z.string(),
  watch,
  items: z.array(
    toolChange.extend({
      description: z.string().describe('Present version'),
      flags: z.array(flagSchema),
      held: z.boolean(),
      since: moment.nullable(),
      refused: z.string().nullable().describe('Who rejected it'),
    }),
  ),
});
/** One version of a server's tool list. */
export const serverList = z.object({
  id: z.number(),
  at: moment,
  what: z.enum(['attached', 'seen', 'accepted', 'refused']),
  by: z.string().nullable(),
  about: z.array(z.string()).describe('Names of the affected tools'),
  tools: z.number(),
  changes: z.array(toolChange).describe('Changes from the previous one'),
});
/** One line of a server's log. */
export const serverLogLine = z.object({
  id: z.number(),
  at: moment,
  from: z.enum(['program', 'server', 'pindro']).describe('Program output, notifications, actions'),
  level: z.enum(['info', 'warning', 'error']),
  text: z.string(),
});
const calls = {
  calls: z.number(),
  failed: z.number(),
  p50: z.number().nullable().describe('Median duration (p50), in milliseconds'),
  p95: z.number().nullable().describe('95th percentile (p95), in milliseconds'),
};
/** Recent activity of the tools of a server. */
export const serverActivity = z.object({
  total: z.object(calls),
  over: z.array(z.object({ from: moment, ...calls })).describe('By time interval'),
  tools: z.array(z.object({ tool: z.string(), ...calls })),
  failures: z
    .array(z.object({ at: moment, tool: z.string(), took: z.number(), code: z.string(), run: z.string().nullable() }))
    .describe('Most recent first'),
});
/** A saved manual tool call. */
export const serverSample = z.object({
  id: z.number(),
  tool: z.string(),
  name: z.string(),
  arguments: jsonObject,
  at: moment,
});
export type ServerActivity = z.infer<typeof serverActivity>;
export type ServerSample = z.infer<typeof serverSample>;
export type ServerChanges = z.infer<typeof serverChanges>;
export type ServerList = z.infer<typeof serverList>;
export type ServerLogLine = z.infer<typeof serverLogLine>;
