import {
  anyJson,
  errorRecord,
  findingSchema,
  modelSettings,
  parkedSchema,
  receiptSchema,
  runState,
  spanSchema,
  stage,
} from '@pindro/core/browser';
import { z } from 'zod';
import { exposedTool } from './serving-resources.js';

/* What the service shows of its things. Times are RFC 3339 text; names are as in the documents. */

const json = anyJson;

export { runState, stage };

const moment = z.iso.datetime();
const jsonObject = z.record(z.string(), json);

export const mistake = z.object({
  at: z.string().describe('JSON Pointer into the document'),
  line: z.number().optional(),
  column: z.number().optional(),
  message: z.string(),
  hint: z.string().optional(),
  missing: z
    .literal(true)
    .optional()
    .describe('Something is still to be filled in, and nothing is wrong with what is there'),
});

/** Problem details (RFC 9457). */
export const problem = z.object({
  type: z.string(),
  title: z.string().describe('The same for every occurrence of the type'),
  status: z.number(),
  detail: z.string().describe('What happened this time'),
  code: z.string(),
  hint: z.string(),
  at: z.string().optional(),
  mistakes: z.array(mistake).optional(),
  run: z.string().optional(),
});

export const flowSummary = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  revision: z.number().nullable().describe('The live revision'),
  changed: z.boolean().describe('Whether the draft differs from what is live'),
  steps: z.number(),
  labels: z.array(z.string()),
  sound: z.boolean().describe('Whether the draft has no mistakes'),
  agent: z.boolean().describe('Whether one can talk to it: it has an agent and takes a message'),
  endpoints: z.array(z.string()).describe('Where it is exposed'),
  updatedAt: moment,
});

const sentencePart = z.union([z.string(), z.object({ value: json })]);

export const stepCard = z.object({
  name: z.string(),
  kind: z.string(),
  title: z.string(),
  note: z.string(),
  off: z.boolean(),
  under: z.string().describe('The heading of the stretch it belongs to, if any'),
  sentence: z.array(sentencePart).describe('What the step does, with the values that fill it'),
  branches: z.array(z.string()).describe('Ways out besides the plain one'),
  output: json.describe('The type of steps.NAME'),
  inside: z.array(z.string()).describe('Names of the steps inside of it'),
  tools: z
    .array(z.object({ from: z.string(), use: z.string(), set: z.array(z.string()) }))
    .describe("An agent's toolbox, row by row"),
});
export const stepLink = z.object({ from: z.string(), to: z.string(), branch: z.string().nullable() });

export const flowDetail = flowSummary.extend({
  text: z.string().describe('The draft as it was written'),
  document: json,
  input: jsonObject.describe('JSON Schema of its input'),
  cards: z.array(stepCard),
  links: z.array(stepLink),
  revisions: z.array(z.object({ revision: z.number(), note: z.string(), publishedAt: moment, live: z.boolean() })),
  mistakes: z.array(mistake),
  warnings: z.array(mistake).describe('What works, and does nothing now'),
  version: z.number().describe('Counts up with each save of the draft'),
});

export const endpointSummary = z.object({
  name: z.string(),
  title: z.string(),
  url: z.string(),
  description: z.string(),
  instructions: z.string(),
  icon: z.string().nullable().describe('Where its picture is'),
  formerly: z.array(z.string()).describe('Names it went by, whose addresses still answer'),
  on: z.boolean(),
  offSince: moment.nullable().describe('Since when it is off'),
  access: z.enum(['open', 'keys']),
  tools: z.number(),
  keys: z.number(),
  sessions: z.number().describe('Sessions open now'),
});
export const keySummary = z.object({
  id: z.string(),
  name: z.string(),
  beginning: z.string().describe('The first characters, to tell keys apart'),
  caller: z.string(),
  attributes: jsonObject,
  stage,
  endpoints: z.array(z.string()).describe('The endpoints it opens; "*" means all'),
  tools: z.array(z.string()).nullable().describe('The only tools it opens; null means all of the endpoint'),
  readOnly: z.boolean().describe('Whether it opens only tools that change nothing'),
  perMinute: z.number().nullable().describe('How many calls a minute it may make'),
  propose: z.boolean().describe('Whether it may read flows whole and propose changes on the workshop'),
  credentials: z.record(z.string(), z.string()).describe("Credentials of its holder's own, by tool server"),
  manage: z.boolean().describe('Whether it opens the API'),
  expiresAt: moment.nullable(),
  createdAt: moment,
  lastUsedAt: moment.nullable(),
  revokedAt: moment.nullable(),
});
export const endpointDetail = endpointSummary.extend({
  document: json,
  toolList: z.array(exposedTool),
  keyList: z.array(keySummary),
  tokens: z.number().describe('About how many tokens a model reads for the list'),
  clients: z.array(z.object({ name: z.string(), version: z.string(), key: z.string(), since: moment })),
});
/** Settings to paste into a client, for one shape of client. */
export const clientSettings = z.object({
  shape: z.string(),
  title: z.string(),
  about: z.string(),
  language: z.string(),
  text: z.string(),
});

/** How a credential goes along with a request. */
export const CREDENTIAL_KINDS = ['bearer', 'header', 'query', 'path', 'basic', 'environment', 'certificate'] as const;
export const credentialKind = z.enum(CREDENTIAL_KINDS);
/** Where a secret is read whenever it is used. */
export const secretSource = z.union([
  z.strictObject({
    environment: z
      .string()
      .regex(/^[A-Za-z_]\w*$/)
      .describe('A variable of the service'),
  }),
  z.strictObject({ file: z.string().min(1).max(4000).describe('A file on the machine of the service') }),
]);
export const credentialSummary = z.object({
  name: z.string(),
  kind: credentialKind,
  header: z.string().nullable().describe('Name of the header, or of the query parameter'),
  account: z.string().describe('For whom or what it is'),
  origins: z.array(z.string()).nullable().describe('Where it may go; null until it is first used'),
  createdAt: moment,
  usedAt: moment.nullable().describe('When a tool server was last called with it'),
  used: z.enum(['taken', 'refused']).nullable().describe('What came of that'),
  source: secretSource.nullable().describe('Where its value is read whenever it is used; null: it is kept sealed'),
  formerUntil: moment.nullable().describe('Until when the secret of before goes along where this one is refused'),
  usedBy: z.array(z.string()),
});

export const modelSummary = z.object({
  name: z.string(),
  dialect: z.string(),
  base: z.string(),
  model: z.string(),
  credential: z.string().nullable(),
  keys: z.array(z.string()).describe('Further credentials, which take turns with the first'),
  fallback: z.string().nullable().describe('Which connection is asked where this one cannot answer'),
  settings: modelSettings,
  testedAt: moment.nullable(),
  trouble: z.string().nullable(),
});

export const memorySummary = z.object({
  id: z.string(),
  stage: z.string(),
  flow: z.string().nullable().describe('null where flows share it'),
  step: z.string().nullable(),
  caller: z.string().nullable(),
  key: z.array(z.string()).describe('What tells one conversation from another'),
  exchanges: z.number(),
  notes: z.number(),
  updatedAt: moment,
});
export const memory = memorySummary.omit({ exchanges: true, notes: true }).extend({
  turns: z.array(z.object({ role: z.string(), text: z.string(), tool: z.string().nullable() })),
  notes: z.array(z.object({ about: z.string(), text: z.string(), at: z.string() })),
  abstract: z.string().describe('What came before, summed up; empty where nothing was'),
  kept: z.record(z.string(), json).describe('Values that were kept of results, by name'),
});

export const columnType = z.enum(['text', 'number', 'whole', 'boolean', 'date', 'json']);
export const tableSummary = z.object({
  name: z.string(),
  columns: z.array(z.object({ name: z.string(), type: columnType })),
  owner: z.string().nullable().describe('The column that keeps callers apart, if one does'),
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
  title: z.string().nullable().describe('What went wrong, in one sentence'),
  doubt: z.string().nullable().describe('Why a run that is done is not what it seems, or claims'),
  finding: z.string().nullable().describe('The rule that found the gravest of it'),
  failures: z.boolean().optional().describe('In lists: whether something in it failed, also where it was dealt with'),
});
export const span = spanSchema;
export const finding = findingSchema;
/** One piece of work of a run that is laid beside another one. */
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
  receipt: receiptSchema.nullable().describe('What its agents did, from their calls and not from their words'),
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
    .describe('How each step came out, from the journal'),
  waits: z
    .array(
      parkedSchema.extend({
        path: z.string(),
        run: z.string().nullable().describe('The called run that it waits for'),
      }),
    )
    .describe('What a run that waits is waiting for'),
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
  waitsFor: parkedSchema.nullable().describe('Set while it waits'),
  receipt: receiptSchema.nullable().describe('What its agents did, from their calls and not from their words'),
});

/** What the stream of a run or of everything carries. */
export const liveEvent = z.union([
  z.object({ type: z.literal('run'), run: runSummary }),
  z.object({ type: z.literal('changed'), what: z.string(), name: z.string() }),
  z.object({ type: z.literal('live'), run: z.string(), live: json }),
  z.object({ type: z.literal('outcome'), outcome }),
]);

export type Stage = z.infer<typeof stage>;
export type FlowSummary = z.infer<typeof flowSummary>;
export type FlowDetail = z.infer<typeof flowDetail>;
export type StepCard = z.infer<typeof stepCard>;
export type StepLink = z.infer<typeof stepLink>;
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
export type StreamEvent = z.infer<typeof liveEvent>;
export type ProblemDetails = z.infer<typeof problem>;

/** How much of the record of runs there is, and what is next to go. */
export const recordOverview = z.object({
  bytes: z.number().describe('What it takes on disk'),
  limit: z.number().describe('How large it may grow'),
  days: z.number().describe('How long runs are kept that went well'),
  failedDays: z.number().describe('How long runs are kept that did not'),
  payloads: z.object({ count: z.number(), bytes: z.number() }).describe('Long values, each kept once'),
  oldest: moment.nullable().describe('When the oldest run that is kept began'),
  next: z.object({ run: z.string(), at: moment }).nullable().describe('The run that goes next, and when'),
});
export type RecordOverview = z.infer<typeof recordOverview>;
