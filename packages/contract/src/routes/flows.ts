import { z } from 'zod';
import * as b from '../building-resources.js';
import { flow } from '../resource/flow.js';
import { label } from '../resource/label.js';
import { resourceRoutes } from '../resource/routes.js';
import * as r from '../resources.js';
import { streamEvent } from '../stream.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { capture, document, json, jsonObject, written } from './shapes.js';

const expose = z.object({
  endpoint: z.string().default('main'),
  tool: z.string().optional().describe('Name of the tool; the name of the flow by default'),
  description: z.string().optional(),
  caller: z.string().default('first-client'),
  force: z.boolean().default(false).describe('Publishes even if it breaks what uses the flow'),
});
const runRequest = z.object({
  input: json.default({}),
  stage: r.stage.default('draft'),
  session: z.string().max(200).optional(),
  entry: z.enum(['hand', 'chat']).default('hand'),
  capture,
});
const version = z.union([z.literal('draft'), z.literal('live'), z.stringFormat('revision', /^(\d+|r[0-9a-z]{9,})$/)]);

/** Flows: drawing, keeping, publishing, running them. */
export const flows = {
  listFlows: {
    method: 'GET',
    role: 'viewer',
    path: '/flows',
    about: 'Lists all flows',
    query: o.searching.extend({ label: z.string().optional().describe('Only flows with this label') }),
    answer: z.object({ items: z.array(r.flowSummary) }),
  },
  getFlow: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name',
    about: 'Returns one flow with its draft',
    answer: r.flowDetail,
  },
  checkFlow: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/check',
    about: 'Lists every mistake of a flow document without saving it',
    body: written,
    answer: z.object({ mistakes: z.array(r.mistake), warnings: z.array(r.mistake) }),
  },
  importFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows',
    about: 'Saves a document as the draft of the flow it names',
    body: written,
    answer: r.flowSummary.extend({ warnings: z.array(r.mistake).describe('Valid, but currently without effect') }),
  },
  publishFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/publish',
    about: 'Publishes the draft as a revision and makes it live',
    body: z.object({
      note: z.string().max(500).default(''),
      force: z.boolean().default(false).describe('Even if it breaks what uses the flow'),
    }),
    answer: z.object({
      revision: z.number(),
      fresh: z.boolean(),
      blockers: z.array(z.string()).describe('What still prevents callers from using it'),
    }),
  },
  exposeFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/expose',
    about: 'Publishes a flow, adds it to an endpoint and issues a key',
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
    about: 'Runs a flow and streams its events',
    body: runRequest,
    answer: streamEvent,
    stream: true,
  },
  listKinds: {
    method: 'GET',
    role: 'viewer',
    path: '/kinds',
    about: 'Lists every step kind with its settings',
    answer: z.object({ items: z.array(b.kindSummary) }),
  },
  previewFlow: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/preview',
    about: 'Returns the drawing of a document and its mistakes without saving it',
    body: z.object({ document }),
    answer: b.flowPreview,
  },
  evaluate: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/evaluate',
    about: 'Evaluates one field with given data as a preview',
    body: z.object({
      value: json,
      input: json.default({}),
      steps: jsonObject.default({}),
      item: json.optional(),
      index: z.number().optional(),
    }),
    answer: b.evaluation,
  },
  saveDraft: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name/draft',
    about: 'Saves a draft, including its mistakes; it runs only without mistakes',
    body: z.object({
      document,
      version: z.number().optional().describe('Version it is based on; rejected if somebody else saved since'),
      fresh: z.boolean().default(false).describe('Rejected if a flow of that name already exists'),
    }),
    answer: b.savedDraft,
  },
  ...resourceRoutes(flow),
  updateFlow: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name',
    about: 'Changes the metadata of the draft',
    body: z.object({
      title: z.string().max(200).optional(),
      description: z.string().max(10_000).optional(),
      labels: z.array(z.string().min(1).max(40)).max(12).optional(),
    }),
    answer: r.flowSummary,
  },
  listLabels: {
    method: 'GET',
    role: 'viewer',
    path: '/labels',
    about: 'Lists labels of flows',
    query: o.searching,
    answer: z.object({ items: z.array(z.object({ name: z.string(), flows: z.array(z.string()) })) }),
  },
  ...resourceRoutes(label),
  removeLabel: {
    method: 'DELETE',
    role: 'builder',
    path: '/labels/:name',
    about: 'Removes a label from every flow',
    answer: z.object({ done: z.literal(true), flows: z.array(z.string()) }),
  },
  flowImpact: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/impact',
    about: 'Lists what publishing the draft would break',
    answer: z.object({ items: z.array(b.impact) }),
  },
  getRevision: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/revisions/:revision',
    about: 'Returns one revision, unchanged',
    answer: b.revision.extend({ text: z.string(), document: json }),
  },
  compareFlow: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/compare',
    about: 'Compares two versions of a flow: revisions, the draft, or what a run used',
    query: z.object({ from: version.default('live'), to: version.default('draft') }),
    answer: b.flowComparison,
  },
  compareDraft: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/:name/compare',
    about: 'Compares a document with the saved draft',
    body: z.object({ document }),
    answer: b.flowComparison,
  },
  reportPresence: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/:name/presence',
    about: 'Reports that the caller has the draft open, and returns who else has; repeat every few seconds',
    body: z.object({ page: z.string().min(1).max(60).describe('Identifies open pages') }),
    answer: z.object({
      others: z.array(z.string()).describe('Others, without the caller'),
      elsewhere: z.boolean().describe('Whether the caller has it open on another page too'),
    }),
  },
  activateRevision: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/revisions/:revision/activate',
    about: 'Makes a revision the live one',
    answer: z.object({ revision: z.number() }),
  },
} as const satisfies Record<string, Route>;
