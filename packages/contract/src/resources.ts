import {
  anyJson,
  errorRecord,
  findingSchema,
  mistakeSchema,
  modelSettings,
  type Problem,
  parkedSchema,
  problemSchema,
  receiptSchema,
  runState,
  type StepCard,
  type StepLink,
  spanSchema,
  stage,
  stepCard,
  stepLink,
} from '@pindro/core/browser';
import { z } from 'zod';
import { exposedTool } from './serving-resources.js';

/* What the service shows of its things. Times are RFC 3339 text; names are as in the documents. */

const json = anyJson;

export {
  mistakeSchema as mistake,
  problemSchema as problem,
  runState,
  type StepCard,
  type StepLink,
  stage,
  stepCard,
  stepLink,
};

const moment = z.iso.datetime();
const jsonObject = z.record(z.string(), json);

export const flowSummary = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  revision: z.number().nullable().describe('Live revision'),
  changed: z.boolean().describe('Whether the draft differs from the live revision'),
  steps: z.number(),
  labels: z.array(z.string()),
  sound: z.boolean().describe('Whether the draft is valid'),
  agent: z.boolean().describe('Whether it supports chat: it has an agent and a "message" input'),
  endpoints: z.array(z.string()).describe('Endpoints that expose it'),
  updatedAt: moment,
});

export const flowDetail = flowSummary.extend({
  text: z.string().describe('The draft source, unchanged'),
  document: json,
  input: jsonObject.describe('JSON Schema of its input'),
  cards: z.array(stepCard),
  links: z.array(stepLink),
  revisions: z.array(z.object({ revision: z.number(), note: z.string(), publishedAt: moment, live: z.boolean() })),
  mistakes: z.array(mistakeSchema),
  warnings: z.array(mistakeSchema).describe('Valid, but currently without effect'),
  version: z.number().describe('Increases with each save of the draft'),
});

export const endpointSummary = z.object({
  name: z.string(),
  title: z.string(),
  url: z.string(),
  description: z.string(),
  instructions: z.string(),
  icon: z.string().nullable().describe('Address of its icon'),
  formerly: z.array(z.string()).describe('Former names, whose addresses still work'),
  on: z.boolean(),
  offSince: moment.nullable().describe('Disabled since'),
  access: z.enum(['open', 'keys']),
  tools: z.number(),
  keys: z.number(),
  sessions: z.number().describe('Currently open sessions'),
});
export const keySummary = z.object({
  id: z.string(),
  name: z.string(),
  beginning: z.string().describe('First characters, for identification'),
  caller: z.string(),
  attributes: jsonObject,
  stage,
  endpoints: z.array(z.string()).describe('Endpoints it grants access to; "*" for all'),
  tools: z.array(z.string()).nullable().describe('Tools it grants access to; null for all tools of the endpoint'),
  readOnly: z.boolean().describe('Whether it allows read-only tools only'),
  perMinute: z.number().nullable().describe('Rate limit in calls per minute'),
  propose: z.boolean().describe('Whether it may read whole flows and propose changes on the workshop'),
  credentials: z.record(z.string(), z.string()).describe("Its holder's own credentials, by tool server"),
  manage: z.boolean().describe('Whether it grants access to the API'),
  expiresAt: moment.nullable(),
  createdAt: moment,
  lastUsedAt: moment.nullable(),
  revokedAt: moment.nullable(),
});
export const endpointDetail = endpointSummary.extend({
  document: json,
  toolList: z.array(exposedTool),
  keyList: z.array(keySummary),
  tokens: z.number().describe('Estimated tokens of the list'),
  clients: z.array(z.object({ name: z.string(), version: z.string(), key: z.string(), since: moment })),
});
/** Settings for one type of MCP client. */
export const clientSettings = z.object({
  shape: z.string(),
  title: z.string(),
  about: z.string(),
  language: z.string(),
  text: z.string(),
});

/** Ways to send a credential with a request. */
export const CREDENTIAL_KINDS = ['bearer', 'header', 'query', 'path', 'basic', 'environment', 'certificate'] as const;
export const credentialKind = z.enum(CREDENTIAL_KINDS);
/** Where a secret is read at each use. */
export const secretSource = z.union([
  z.strictObject({
    environment: z
      .string()
      .regex(/^[A-Za-z_]\w*$/)
      .describe('Environment variable of the service'),
  }),
  z.strictObject({ file: z.string().min(1).max(4000).describe('File on the machine of the service') }),
]);
export const credentialSummary = z.object({
  name: z.string(),
  kind: credentialKind,
  header: z.string().nullable().describe('Name of the header or query parameter'),
  account: z.string().describe('User name or owner'),
  origins: z.array(z.string()).nullable().describe('Allowed origins; null until first used'),
  createdAt: moment,
  usedAt: moment.nullable().describe('Time of the last call to a tool server with it'),
  used: z.enum(['taken', 'refused']).nullable().describe('Outcome of that call'),
  source: secretSource.nullable().describe('Source of the value, read at each use; null if it is stored encrypted'),
  formerUntil: moment
    .nullable()
    .describe('The previous secret is tried until then when the present secret is rejected'),
  usedBy: z.array(z.string()),
});

export const modelSummary = z.object({
  name: z.string(),
  dialect: z.string(),
  base: z.string(),
  model: z.string(),
  credential: z.string().nullable(),
  keys: z.array(z.string()).describe('Additional credentials used in rotation'),
  fallback: z.string().nullable().describe('Connection to use when this connection fails'),
  settings: modelSettings,
  testedAt: moment.nullable(),
  trouble: z.string().nullable(),
});

export const memorySummary = z.object({
  id: z.string(),
  stage: z.string(),
  flow: z.string().nullable().describe('null if flows share it'),
  step: z.string().nullable(),
  caller: z.string().nullable(),
  key: z.array(z.string()).describe('Identifies a conversation'),
  exchanges: z.number(),
  notes: z.number(),
  updatedAt: moment,
});
export const memory = memorySummary.omit({ exchanges: true, notes: true }).extend({
  turns: z.array(z.object({ role: z.string(), text: z.string(), tool: z.string().nullable() })),
  notes: z.array(z.object({ about: z.string(), text: z.string(), at: z.string() })),
  abstract: z.string().describe('Summary of earlier turns; empty without any'),
  kept: z.record(z.string(), json).describe('Stored values of results, by name'),
});

export const columnType = z.enum(['text', 'number', 'whole', 'boolean', 'date', 'json']);
export const tableSummary = z.object({
  name: z.string(),
  columns: z.array(z.object({ name: z.string(), type: columnType })),
  owner: z.string().nullable().describe('Column that separates callers, if any'),
  rows: z.number(),
});

export const runSummary = z.object({
  id: z.string(),
  flow: z.string(),
  revision: z.number().nullable(),
  stage,
  state: runState,
  entry: z.string(),
  caller: z.string(),
  session: z.string().nullable(),
  parentRun: z.string().nullable(),
  traceId: z.string(),
  startedAt: moment,
  endedAt: moment.nullable(),
  error: errorRecord.nullable(),
  title: z.string().nullable().describe('What failed, in one sentence'),
  doubt: z.string().nullable().describe('Why a completed run did not do what it claims'),
  finding: z.string().nullable().describe('Rule of the most severe finding'),
  failures: z.boolean().optional().describe('In lists: whether something in it failed, also if it was handled'),
});
export const span = spanSchema;
export const finding = findingSchema;
/** One unit of work in a comparison of runs. */
export const side = z.object({
  status: z.string(),
  took: z.number().nullable(),
  input: json,
  output: json,
  error: z.string().nullable(),
});
export const runDetail = runSummary.extend({
  url: z.string(),
  input: json,
  result: json,
  receipt: receiptSchema.nullable().describe('What its agents did, according to their calls'),
  findings: z.array(finding),
  spans: z.array(span),
  cards: z.array(stepCard),
  links: z.array(stepLink),
  settled: z
    .array(
      z.object({
        path: z.string(),
        state: z.enum(['done', 'failed', 'skipped']),
        branch: z.string().nullable(),
        output: json,
        error: errorRecord.optional(),
      }),
    )
    .describe('Outcome of each step, from the journal'),
  waits: z
    .array(
      parkedSchema.extend({
        path: z.string(),
        run: z.string().nullable().describe('Called run that it waits for'),
      }),
    )
    .describe('What a waiting run waits for'),
  children: z.array(runSummary),
});

export const mail = z.object({
  id: z.string(),
  from: z.string(),
  to: z.array(z.string()),
  subject: z.string(),
  text: z.string(),
  at: moment,
});

export const outcome = z.object({
  run: z.string(),
  url: z.string(),
  state: runState,
  result: json,
  error: errorRecord.nullable(),
  waitsFor: parkedSchema.nullable().describe('Set while the run waits'),
  receipt: receiptSchema.nullable().describe('What its agents did, according to their calls'),
});

export type Stage = z.infer<typeof stage>;
export type FlowSummary = z.infer<typeof flowSummary>;
export type FlowDetail = z.infer<typeof flowDetail>;
export type EndpointSummary = z.infer<typeof endpointSummary>;
export type EndpointDetail = z.infer<typeof endpointDetail>;
export type ClientSettings = z.infer<typeof clientSettings>;
export type KeySummary = z.infer<typeof keySummary>;
export type CredentialSummary = z.infer<typeof credentialSummary>;
export type MemorySummary = z.infer<typeof memorySummary>;
export type Memory = z.infer<typeof memory>;
export type ModelSummary = z.infer<typeof modelSummary>;
export type ColumnType = z.infer<typeof columnType>;
export type TableSummary = z.infer<typeof tableSummary>;
export type RunSummary = z.infer<typeof runSummary>;
export type RunDetail = z.infer<typeof runDetail>;
export type Mail = z.infer<typeof mail>;
export type Outcome = z.infer<typeof outcome>;
export type ProblemDetails = Problem;

/** Size and retention of stored runs. */
export const recordOverview = z.object({
  bytes: z.number().describe('Size on disk'),
  limit: z.number().describe('Maximum size'),
  days: z.number().describe('Retention of completed runs'),
  failedDays: z.number().describe('Retention of failed runs'),
  payloads: z.object({ count: z.number(), bytes: z.number() }).describe('Long values, stored once'),
  oldest: moment.nullable().describe('Start of the oldest retained run'),
  next: z.object({ run: z.string(), at: moment }).nullable().describe('Run that expires next, and when'),
});
export type RecordOverview = z.infer<typeof recordOverview>;
