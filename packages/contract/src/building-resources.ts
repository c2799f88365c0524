import {
  anyJson,
  comparedLine,
  flowComparison as comparison,
  errorRecord,
  flowChange,
  GRANTS,
  size,
} from '@pindro/core/browser';
import { z } from 'zod';
import { flowSummary, mistake, stepCard, stepLink } from './resources.js';

/* What building, trying and opening up flows shows. */

const json = anyJson;
const jsonObject = z.record(z.string(), json);
const moment = z.iso.datetime();

export const kindSummary = z.object({
  name: z.string(),
  title: z.string(),
  about: z.string(),
  schema: jsonObject.describe('JSON Schema of "with"'),
  plain: z.array(z.string()).describe('Parts of it without expressions'),
});

/** A flow being edited, which may have mistakes. */
export const flowPreview = z.object({
  cards: z.array(stepCard),
  links: z.array(stepLink),
  bodies: z
    .record(z.string(), z.object({ cards: z.array(stepCard), links: z.array(stepLink) }))
    .describe('Steps inside loops, by the JSON Pointer of the loop'),
  mistakes: z.array(mistake),
  warnings: z.array(mistake).describe('Valid, but currently without effect'),
  input: jsonObject,
  document: json,
});
export const savedDraft = flowPreview.extend({ summary: flowSummary, version: z.number() });

/** Comparison of two versions of a flow, with a combined drawing. */
export const flowComparison = comparison.extend({
  cards: z.array(stepCard),
  links: z.array(stepLink),
});
export const impact = z.object({
  what: z.enum(['tool', 'flow', 'entry', 'agent']),
  name: z.string(),
  why: z.string(),
});
export const revision = z.object({
  revision: z.number(),
  note: z.string(),
  publishedAt: moment,
  live: z.boolean(),
});
export const heldStep = z.object({ step: z.string(), run: z.string(), heldAt: moment });
export const sample = z.object({ name: z.string().describe('Empty for the most recent one'), input: json });

/** Preview of a model request, for people and as sent. */
export const preview = z.object({
  connection: z.string(),
  model: z.string(),
  address: z.string(),
  system: z.string().describe('Instructions, including those of endpoints and servers'),
  tools: z.array(
    z.object({
      name: z.string(),
      description: z.string(),
      schema: jsonObject,
      lost: z
        .array(z.string())
        .describe('Parts of the schema that the dialect does not support and that are sent as text only'),
    }),
  ),
  turns: z.array(z.object({ role: z.string(), text: z.string(), tool: z.string().optional() })),
  tokens: z.object({ system: z.number(), tools: z.number(), turns: z.number() }).describe('Estimated count'),
  left: z.array(z.string()).describe('Parts of the conversation that do not fit'),
  body: json.describe('Body of the request'),
});

const grant = z.enum(GRANTS).describe('Scope of the approval: one call, a conversation, or all calls of a caller');
/** An approval that covers further calls. */
export const standingApproval = z.object({
  id: z.string(),
  grant,
  flow: z.string(),
  tool: z.string(),
  origin: z.string().describe('Origin of the tool; other tools of the same name are not covered'),
  caller: z.string().describe('On whose behalf the calls happen'),
  run: z.string().describe('Run in which it was granted'),
  path: z.string(),
  by: z.string(),
  note: z.string(),
  at: moment,
  until: moment,
  revokedBy: z.string().nullable(),
  revokedAt: moment.nullable(),
  isValid: z.boolean(),
});
export type StandingApproval = z.infer<typeof standingApproval>;

export const approval = z.object({
  run: z.string(),
  path: z.string(),
  flow: z.string(),
  caller: z.string(),
  title: z.string(),
  message: z.string(),
  facts: jsonObject,
  tool: z.string().nullable().describe('Tool to call; the facts are its arguments'),
  schema: jsonObject.nullable().describe('Schema of an answer that replaces the facts'),
  answers: z.enum(['people', 'caller']).describe('Allowed approvers'),
  fourEyes: z.boolean().describe('Whether the person on whose behalf it happens must not approve it'),
  value: jsonObject.nullable().describe('Values that the approver sent instead'),
  sent: jsonObject.nullable().describe('Arguments as they are sent; null until approved'),
  grants: z
    .object({ default: grant, allowed: z.array(grant), longest: z.number().describe('In milliseconds') })
    .describe('Scopes that the approval may cover beyond this call, and for how long'),
  grant: grant.nullable().describe('Scope of the approval'),
  grantedUntil: moment.nullable().describe('Expiry of an approval that covers further calls'),
  askedAt: moment,
  until: moment.nullable(),
  decision: z.enum(['approved', 'refused', 'expired']).nullable(),
  by: z.string(),
  note: z.string(),
  decidedAt: moment.nullable(),
});

const bodyLimit = size.default('1MiB').describe('Maximum body size');
const perMinute = z.number().int().min(1).max(6000).default(60).describe('Maximum number per minute');
const words = z.string().max(2000);

/** How a form ends: a text, or another address where one is given. */
const ending = z.strictObject({
  message: words.default('').describe('May contain expressions over "input", and over "error" if there is one'),
  address: z
    .string()
    .regex(/^(?:https?:\/\/|\/)\S*$|^$/, 'must begin with http://, https:// or /')
    .default('')
    .describe('Redirects there instead of showing the text'),
});

/** Settings of each type of entry point. */
export const entrySettings = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('hook'),
    methods: z
      .array(z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE']))
      .min(1)
      .default(['POST']),
    guard: z
      .enum(['open', 'key', 'signature'])
      .default('key')
      .describe('Authentication: none, an access key, or a signature with the secret (HMAC-SHA256)'),
    origins: z.array(z.string()).default([]).describe('Origins whose pages may call the webhook from a browser (CORS)'),
    answer: z
      .enum(['result', 'run', 'response'])
      .default('result')
      .describe(
        "Responds with the flow's result, immediately with the run ID, or with the response that the result describes: { status, headers, body }, or base64 instead of body",
      ),
    bodyLimit,
    perMinute,
  }),
  z.strictObject({
    kind: z.literal('form'),
    title: words.default('').describe("Heading of the page; the flow's title by default"),
    about: words.default(''),
    button: z.string().max(60).default('Send'),
    after: z.enum(['message', 'address', 'form']).default('message').describe('Action after the form is sent'),
    message: words
      .default('Thank you. Your message has been received.')
      .describe('May contain expressions over "input" and "result"'),
    address: z.string().default('').describe('For "address": where to redirect; for "form": the name of the next form'),
    waiting: ending.optional().describe('Shown while the run waits for a decision or a time'),
    refused: ending.optional().describe('Shown when the flow stopped at a "stop" step or a person declined'),
    failed: ending.optional().describe('Shown if the run failed'),
    choices: z
      .boolean()
      .default(true)
      .describe('Whether visitors can choose from the values that inputs declare with "x-values"'),
    bodyLimit,
    perMinute,
  }),
  z.strictObject({
    kind: z.literal('chat'),
    title: words.default(''),
    greeting: words.default('Hello. How can I help you?'),
    perMinute,
  }),
  z.strictObject({
    kind: z.literal('schedule'),
    cron: z.string().describe('Five fields: minute, hour, day of month, month, day of week'),
    zone: z.string().default('').describe("Time zone; the workspace's by default"),
    input: jsonObject.default({}),
    missed: z
      .enum(['skip', 'once'])
      .default('skip')
      .describe('What to do about times missed while Pindro was not running'),
    overlap: z
      .enum(['skip', 'wait', 'allow'])
      .default('skip')
      .describe('What to do if the previous run is still running'),
  }),
]);
export const entry = z.object({
  id: z.string(),
  flow: z.string(),
  path: z.string(),
  on: z.boolean(),
  url: z.string().nullable().describe('Address'),
  settings: entrySettings,
  secret: z.boolean().describe('Whether it has a signing secret'),
  usedAt: moment.nullable(),
  nextAt: moment.nullable().describe('Next run of a schedule'),
  trouble: z.string().nullable().describe('Why it cannot work at present'),
});

/** Something that only a person can supply, and the command that supplies it. */
export const gap = z.object({ what: z.string(), command: z.string() });

/** Files of a workspace, by path. */
export const workspaceFiles = z.record(z.string(), z.string());
export const workspaceChange = z.object({
  path: z.string(),
  change: z.enum(['added', 'removed', 'changed', 'same']),
  lines: z.array(comparedLine),
});
export const workspaceImported = z.object({
  done: z.array(z.string()).describe('Name of the written file'),
  refused: z.array(z.object({ path: z.string(), mistakes: z.array(mistake) })),
  gaps: z.array(gap).describe('Referenced things that only a person can supply'),
});

export const apiOperation = z.object({
  id: z.string(),
  method: z.string(),
  path: z.string(),
  title: z.string(),
  flow: z.string().describe('Name of a flow created from it'),
  made: z.boolean().describe('Whether that flow already exists'),
  trouble: z.string().nullable().describe('Why it cannot become a flow'),
});
export const apiDocument = z.object({
  title: z.string(),
  version: z.string(),
  bases: z.array(z.string()).describe('Addresses in the document'),
  credential: z.string().nullable().describe('Description of the required authentication'),
  header: z.string().nullable().describe('Header for a key'),
  operations: z.array(apiOperation),
});
export const importedDocument = z.object({
  name: z.string(),
  title: z.string(),
  version: z.string(),
  url: z.string().nullable(),
  base: z.string(),
  credential: z.string().nullable(),
  flows: z.array(z.string()),
  readAt: moment,
});
export const apiUpdate = z.object({
  flow: z.string(),
  change: z.enum(['same', 'changed', 'conflict', 'gone']),
  changes: z.array(flowChange).describe('What the document changed'),
  conflicts: z.array(z.string()).describe("Places where the builder's own edit is preserved"),
});

export const evaluation = z.object({
  value: json.optional(),
  missing: z.array(z.string()),
  error: errorRecord.nullable(),
});
export const runTrial = z.object({
  only: z.object({ step: z.string(), run: z.string().describe('Earlier run that supplies the data') }).optional(),
  held: z.boolean().default(true).describe('Whether stubbed results replace their steps'),
  stepping: z.boolean().default(false).describe('Whether it pauses before each step'),
});

export type KindSummary = z.infer<typeof kindSummary>;
export type FlowPreview = z.infer<typeof flowPreview>;
export type SavedDraft = z.infer<typeof savedDraft>;
export type FlowComparisonView = z.infer<typeof flowComparison>;
export type Impact = z.infer<typeof impact>;
export type Revision = z.infer<typeof revision>;
export type Sample = z.infer<typeof sample>;
export type Preview = z.infer<typeof preview>;
export type Approval = z.infer<typeof approval>;
export type EntrySettings = z.infer<typeof entrySettings>;
export type EntryPoint = z.infer<typeof entry>;
export type WorkspaceChange = z.infer<typeof workspaceChange>;
export type ApiDocument = z.infer<typeof apiDocument>;
export type ImportedDocument = z.infer<typeof importedDocument>;
export type ApiUpdate = z.infer<typeof apiUpdate>;
export type Evaluation = z.infer<typeof evaluation>;
