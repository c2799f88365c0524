import { anyJson } from '@pindro/core/browser';
import { z } from 'zod';
import { buildingRoutes } from './building-routes.js';
import { peopleRoutes } from './people-routes.js';
import * as r from './resources.js';
import type { Role } from './roles.js';
import { servingRoutes } from './serving-routes.js';
import { workshopRoutes } from './workshop-routes.js';

/** One address of the API: what it takes and what it answers. */
export interface Route {
  method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** The least role that may use it. */
  role: Role;
  /** Below `/api/v1`, with `:name` for parameters. */
  path: string;
  about: string;
  query?: z.ZodObject;
  body?: z.ZodType;
  answer: z.ZodType;
  /** The answer comes as server-sent events, each of this shape. */
  stream?: boolean;
}

const json = anyJson;
const jsonObject = z.record(z.string(), json);
const done = z.object({ done: z.literal(true) });
const written = z.object({
  document: z.union([z.string(), jsonObject]).describe('YAML or JSON text, or the document itself'),
});
const secret = z.string().min(1).describe('Sealed at once and never shown again');
const page = z.object({ limit: z.coerce.number().int().min(1).max(500).default(50), cursor: z.string().optional() });
const newCredential = z.object({
  name: z.string(),
  kind: z.enum(['bearer', 'header', 'basic']).default('bearer'),
  header: z.string().optional().describe('For kind header: its name'),
  account: z.string().default('').describe('For basic: the user name; else for whom it is'),
  secret,
  origins: z.array(z.string()).max(50).optional().describe('Where it may go; where it is first used if left out'),
});
const newKey = z.object({
  name: z.string().min(1).max(80),
  caller: z
    .string()
    .min(1)
    .max(80)
    .optional()
    .describe('On whose behalf its holder calls; the name of the key if left out'),
  attributes: jsonObject.default({}).describe('Usable as caller.NAME in expressions'),
  stage: r.stage.default('live'),
  endpoints: z.array(z.string()).default([]).describe('The endpoints it opens; "*" means all'),
  tools: z.array(z.string()).optional().describe('The only tools it opens; all of its endpoints if left out'),
  readOnly: z.boolean().default(false).describe('Opens only tools that change nothing'),
  perMinute: z.number().int().min(1).max(100_000).optional().describe('How many calls a minute it may make'),
  expires: z.string().optional().describe('After a duration such as 90d; never if left out'),
  propose: z.boolean().default(false).describe('On the workshop: may also read flows whole and propose changes'),
  credentials: z
    .record(z.string(), z.string())
    .default({})
    .describe("Credentials of its holder's own, by the tool server they are for"),
  manage: z.boolean().default(false).describe('Whether it opens the API'),
});
const issued = z.object({ key: z.string().describe('Shown this once'), summary: r.keySummary });
const expose = z.object({
  endpoint: z.string().default('main'),
  tool: z.string().optional().describe('The name of the tool; that of the flow if left out'),
  description: z.string().optional(),
  caller: z.string().default('first-client'),
});
const runRequest = z.object({
  input: json.default({}),
  stage: r.stage.default('draft'),
  session: z.string().max(200).optional(),
  entry: z.enum(['hand', 'chat']).default('hand'),
});

/** Every address of the API. The OpenAPI document, the typed client and the service's routes all come from here. */
export const routes = {
  ...buildingRoutes,
  ...servingRoutes,
  ...peopleRoutes,
  ...workshopRoutes,
  status: {
    method: 'GET',
    role: 'viewer',
    path: '/status',
    about: 'Whether the service is well, and where it is',
    answer: z.object({
      name: z.literal('pindro'),
      version: z.string(),
      url: z.string(),
      runs: z.number(),
      running: z.number(),
      flows: z.number(),
      endpoints: z.number(),
      servers: z.array(r.serverSummary),
      models: z.array(r.modelSummary),
      mailbox: z.boolean(),
      approvals: z.number().describe('Decisions that somebody is to make'),
      queued: z.number().describe('Runs that wait for their turn'),
      trouble: z.string().nullable().describe('Why nothing can be recorded now'),
      record: r.recordOverview,
    }),
  },
  pruneRuns: {
    method: 'POST',
    role: 'owner',
    path: '/runs/prune',
    about: 'Lets go of runs that ended before some days, with all they began',
    body: z.object({ olderThanDays: z.number().min(0).describe('Runs that ended so many days ago, or earlier') }),
    answer: z.object({ removed: z.number(), record: r.recordOverview }),
  },
  signInLink: {
    method: 'POST',
    role: 'owner',
    path: '/sign-in-links',
    about: 'Makes a one-time link that opens the console',
    body: z.object({ person: z.string().default('owner').describe('Who it is for') }),
    answer: z.object({ url: z.string() }),
  },
  signOut: { method: 'POST', role: 'viewer', path: '/sign-out', about: 'Ends the console session', answer: done },

  listFlows: {
    method: 'GET',
    role: 'viewer',
    path: '/flows',
    about: 'All flows',
    answer: z.object({ items: z.array(r.flowSummary) }),
  },
  getFlow: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name',
    about: 'One flow with its draft',
    answer: r.flowDetail,
  },
  checkFlow: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/check',
    about: 'Lists every mistake of a flow document; changes nothing',
    body: written,
    answer: z.object({ mistakes: z.array(r.mistake) }),
  },
  importFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows',
    about: 'Makes a document the draft of the flow it names',
    body: written,
    answer: r.flowSummary,
  },
  publishFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/publish',
    about: 'Makes the draft a revision and that one live',
    body: z.object({ note: z.string().max(500).default('') }),
    answer: z.object({ revision: z.number(), fresh: z.boolean() }),
  },
  exposeFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/expose',
    about: 'Publishes, puts the flow on an endpoint and issues a key',
    body: expose,
    answer: z.object({
      revision: z.number(),
      endpoint: r.endpointDetail,
      tool: z.string(),
      key: z.string(),
      settings: z.array(r.clientSettings),
    }),
  },
  runFlow: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/run',
    about: 'Runs a flow and waits for its end',
    body: runRequest,
    answer: r.outcome,
  },
  watchFlow: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/run/stream',
    about: 'Runs a flow and tells what happens as it happens',
    body: runRequest,
    answer: r.liveEvent,
    stream: true,
  },

  listEndpoints: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints',
    about: 'All endpoints',
    answer: z.object({ items: z.array(r.endpointSummary) }),
  },
  getEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name',
    about: 'One endpoint with its tools and keys',
    answer: r.endpointDetail,
  },
  putEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints',
    about: 'Makes or replaces an endpoint by its document',
    body: written,
    answer: r.endpointDetail,
  },
  connectEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/connect',
    about: 'Settings for each shape of client, with a gap for the key',
    answer: z.object({ settings: z.array(r.clientSettings) }),
  },

  listServers: {
    method: 'GET',
    role: 'viewer',
    path: '/servers',
    about: 'All attached tool servers',
    answer: z.object({ items: z.array(r.serverSummary) }),
  },
  getServer: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name',
    about: 'One tool server with its tools',
    answer: r.serverDetail,
  },
  attachServer: {
    method: 'POST',
    role: 'builder',
    path: '/servers',
    about: 'Attaches a tool server; nothing is kept unless it answers',
    body: z.object({
      name: z.string(),
      url: z.string(),
      credential: z.string().optional(),
      secret: secret.optional().describe('Makes a bearer credential for it'),
      rules: jsonObject.optional(),
    }),
    answer: r.serverDetail,
  },
  refreshServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/refresh',
    about: 'Reads the tool list anew',
    answer: r.serverDetail.extend({ added: z.array(z.string()), removed: z.array(z.string()) }),
  },
  callServerTool: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/tools/:tool/call',
    about: 'Calls one tool',
    body: z.object({ arguments: jsonObject.default({}) }),
    answer: z.object({ text: z.string(), data: json, isError: z.boolean(), milliseconds: z.number() }),
  },
  chatServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/chat',
    about: 'Talks to a model that holds the tools of one server, without any flow',
    body: z.object({
      message: z.string().min(1),
      session: z.string().max(200).optional(),
      model: z.string().optional(),
    }),
    answer: r.liveEvent,
    stream: true,
  },
  detachServer: {
    method: 'DELETE',
    role: 'builder',
    path: '/servers/:name',
    about: 'Detaches a tool server that nothing uses',
    answer: done,
  },

  listCredentials: {
    method: 'GET',
    role: 'viewer',
    path: '/credentials',
    about: 'All credentials, without their secrets',
    answer: z.object({ items: z.array(r.credentialSummary) }),
  },
  addCredential: {
    method: 'POST',
    role: 'builder',
    path: '/credentials',
    about: 'Adds a credential',
    body: newCredential,
    answer: r.credentialSummary,
  },
  changeSecret: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/secret',
    about: 'Gives a credential a new secret',
    body: z.object({ secret }),
    answer: r.credentialSummary,
  },
  setOrigins: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/origins',
    about: 'Says where a credential may go; with none, where it is next used',
    body: z.object({ origins: z.array(z.string()).max(50) }),
    answer: r.credentialSummary,
  },
  removeCredential: {
    method: 'DELETE',
    role: 'builder',
    path: '/credentials/:name',
    about: 'Removes a credential that nothing uses',
    answer: done,
  },

  listModels: {
    method: 'GET',
    role: 'viewer',
    path: '/models',
    about: 'All model connections',
    answer: z.object({ items: z.array(r.modelSummary) }),
  },
  addModel: {
    method: 'POST',
    role: 'builder',
    path: '/models',
    about: 'Adds a model connection; it is tested first',
    body: z.object({
      name: z.string(),
      dialect: z.string().default('chat-completions'),
      base: z.string(),
      model: z.string(),
      credential: z.string().optional(),
      settings: jsonObject.default({}),
    }),
    answer: r.modelSummary,
  },
  testModel: {
    method: 'POST',
    role: 'operator',
    path: '/models/:name/test',
    about: 'Asks the model one short question',
    answer: z.object({ answer: z.string(), milliseconds: z.number() }),
  },

  listKeys: {
    method: 'GET',
    role: 'viewer',
    path: '/keys',
    about: 'All access keys, without the keys themselves',
    answer: z.object({ items: z.array(r.keySummary) }),
  },
  issueKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys',
    about: 'Issues an access key',
    body: newKey,
    answer: issued,
  },
  revokeKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/revoke',
    about: 'Revokes a key at once; its sessions end',
    answer: r.keySummary,
  },

  listTables: {
    method: 'GET',
    role: 'viewer',
    path: '/tables',
    about: 'All tables',
    answer: z.object({ items: z.array(r.tableSummary) }),
  },
  putTable: {
    method: 'POST',
    role: 'builder',
    path: '/tables',
    about: 'Makes a table',
    body: z.object({
      name: z.string(),
      columns: z.record(z.string(), r.columnType),
      owner: z
        .string()
        .optional()
        .describe('A text column that holds the caller; each caller then sees and changes only their own rows'),
    }),
    answer: r.tableSummary,
  },
  tableRows: {
    method: 'GET',
    role: 'viewer',
    path: '/tables/:name/rows',
    about: 'Rows of a table, newest first',
    query: page,
    answer: z.object({
      items: z.array(jsonObject),
      columns: z.array(z.object({ name: z.string(), type: r.columnType })),
      next: z.string().nullable(),
    }),
  },
  addRow: {
    method: 'POST',
    role: 'builder',
    path: '/tables/:name/rows',
    about: 'Adds a row',
    body: z.object({ row: jsonObject }),
    answer: z.object({ row: jsonObject }),
  },

  listRuns: {
    method: 'GET',
    role: 'viewer',
    path: '/runs',
    about: 'Runs, newest first',
    query: page.extend({
      flow: z.string().optional(),
      state: r.runState.optional(),
      caller: z.string().optional(),
      session: z.string().optional(),
      roots: z.stringbool().optional(),
    }),
    answer: z.object({ items: z.array(r.runSummary), next: z.string().nullable() }),
  },
  getRun: {
    method: 'GET',
    role: 'viewer',
    path: '/runs/:id',
    about: 'One run with its trace and what went wrong',
    answer: r.runDetail,
  },
  runAgain: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/again',
    about: 'Runs the same input again: on the draft, on what is live, or on the very document that ran',
    body: z.object({
      on: z.enum(['draft', 'live', 'ran']).optional().describe('The draft if left out, where there is one'),
    }),
    answer: r.outcome,
  },
  cancelRun: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/cancel',
    about: 'Cancels a run that is under way',
    answer: done,
  },

  listMails: {
    method: 'GET',
    role: 'viewer',
    path: '/mailbox',
    about: 'What has arrived in the mailbox stand-in',
    answer: z.object({ items: z.array(r.mail) }),
  },
  events: {
    method: 'GET',
    role: 'viewer',
    path: '/events',
    about: 'What changes, as it changes',
    answer: r.liveEvent,
    stream: true,
  },
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof routes;
