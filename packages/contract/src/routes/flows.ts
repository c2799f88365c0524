import { z } from 'zod';
import * as b from '../building-resources.js';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { document, exact, json, jsonObject, written } from './shapes.js';

const expose = z.object({
  endpoint: z.string().default('main'),
  tool: z.string().optional().describe('The name of the tool; that of the flow if left out'),
  description: z.string().optional(),
  caller: z.string().default('first-client'),
  anyway: z.boolean().default(false).describe('Also where publishing it breaks what uses the flow'),
});
const runRequest = z.object({
  input: json.default({}),
  stage: r.stage.default('draft'),
  session: z.string().max(200).optional(),
  entry: z.enum(['hand', 'chat']).default('hand'),
  exact,
});
const version = z.union([z.literal('draft'), z.literal('live'), z.stringFormat('revision', /^(\d+|r[0-9a-z]{9,})$/)]);

/** Flows: drawing, keeping, publishing, running them. */
export const flows = {
  listFlows: {
    method: 'GET',
    role: 'viewer',
    path: '/flows',
    about: 'All flows',
    query: o.searching.extend({ label: z.string().optional().describe('Only those that carry it') }),
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
    answer: z.object({ mistakes: z.array(r.mistake), warnings: z.array(r.mistake) }),
  },
  importFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows',
    about: 'Makes a document the draft of the flow it names',
    body: written,
    answer: r.flowSummary.extend({ warnings: z.array(r.mistake).describe('What works, and does nothing now') }),
  },
  publishFlow: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/publish',
    about: 'Makes the draft a revision and that one live',
    body: z.object({
      note: z.string().max(500).default(''),
      anyway: z.boolean().default(false).describe('Also where it breaks what uses the flow'),
    }),
    answer: z.object({
      revision: z.number(),
      fresh: z.boolean(),
      hindrances: z.array(z.string()).describe('What still keeps a caller from it'),
    }),
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
  listKinds: {
    method: 'GET',
    role: 'viewer',
    path: '/kinds',
    about: 'Every step kind with what it takes',
    answer: z.object({ items: z.array(b.kindSummary) }),
  },
  previewFlow: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/preview',
    about: 'How a document would be drawn, and its mistakes; changes nothing',
    body: z.object({ document }),
    answer: b.flowPreview,
  },
  evaluate: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/evaluate',
    about: 'Fills one field with given data, to see what comes out',
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
    about: 'Keeps a draft as it is, mistakes and all; it runs only without mistakes',
    body: z.object({
      document,
      version: z.number().optional().describe('The version it was made from; refused when somebody saved meanwhile'),
      fresh: z.boolean().default(false).describe('Refused where there is a flow of that name already'),
    }),
    answer: b.savedDraft,
  },
  removeFlow: o.removing('/flows/:name', 'builder', 'Removes a flow; its runs can still be read'),
  renameFlow: o.renaming('/flows/:name', 'builder', 'flow'),
  copyFlow: o.copying('/flows/:name', 'builder', 'Makes a draft of another name out of the draft of a flow'),
  flowUses: o.using('/flows/:name', 'flow'),
  changeFlow: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name',
    about: 'Changes what the draft says of itself',
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
    about: 'Labels that flows carry',
    query: o.searching,
    answer: z.object({ items: z.array(z.object({ name: z.string(), flows: z.array(z.string()) })) }),
  },
  renameLabel: o.renaming('/labels/:name', 'builder', 'label'),
  removeLabel: {
    method: 'DELETE',
    role: 'builder',
    path: '/labels/:name',
    about: 'Takes a label off every flow',
    answer: z.object({ done: z.literal(true), flows: z.array(z.string()) }),
  },
  flowImpact: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/impact',
    about: 'What publishing the draft would break',
    answer: z.object({ items: z.array(b.impact) }),
  },
  getRevision: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/revisions/:revision',
    about: 'One revision, as it was written',
    answer: b.revision.extend({ text: z.string(), document: json }),
  },
  compareFlow: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/compare',
    about: 'How two versions of a flow differ: revisions, the draft, or what a run ran',
    query: z.object({ from: version.default('live'), to: version.default('draft') }),
    answer: b.flowComparison,
  },
  compareDraft: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/:name/compare',
    about: 'How a document differs from the draft that is kept',
    body: z.object({ document }),
    answer: b.flowComparison,
  },
  beHere: {
    method: 'POST',
    role: 'viewer',
    path: '/flows/:name/here',
    about: 'Says that somebody has the draft open, and tells who else has; said again every few seconds',
    body: z.object({ page: z.string().min(1).max(60).describe('Tells open pages apart') }),
    answer: z.object({
      others: z.array(z.string()).describe('Who, besides the one who asks'),
      elsewhere: z.boolean().describe('Whether the one who asks has it open on another page too'),
    }),
  },
  makeLive: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/revisions/:revision/live',
    about: 'Makes a revision the live one again',
    answer: z.object({ revision: z.number() }),
  },
} as const satisfies Record<string, Route>;
