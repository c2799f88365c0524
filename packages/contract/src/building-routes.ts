import { anyJson } from '@pindro/core/browser';
import { z } from 'zod';
import * as b from './building-resources.js';
import * as r from './resources.js';

const json = anyJson;
const jsonObject = z.record(z.string(), json);
const done = z.object({ done: z.literal(true) });
const document = z.union([z.string(), jsonObject]).describe('YAML or JSON text, or the document itself');
const version = z.union([z.literal('draft'), z.literal('live'), z.stringFormat('revision', /^(\d+|r[0-9a-z]{9,})$/)]);
const source = z.object({
  url: z.string().optional().describe('Where the OpenAPI document is read'),
  text: z.string().optional().describe('Or the document itself'),
});
const newEntry = z.object({
  flow: z.string(),
  path: z.string().optional().describe('Its own part of the address; the name of the flow if left out'),
  on: z.boolean().default(true),
  settings: b.entrySettings,
  secret: z.string().min(8).optional().describe('To sign with; made if left out where one is needed'),
});

/** Addresses for building, trying and opening up flows. */
export const buildingRoutes = {
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
    }),
    answer: b.savedDraft,
  },
  removeFlow: {
    method: 'DELETE',
    role: 'builder',
    path: '/flows/:name',
    about: 'Removes a flow that nothing uses',
    answer: done,
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
  makeLive: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/revisions/:revision/live',
    about: 'Makes a revision the live one again',
    answer: z.object({ revision: z.number() }),
  },
  holdStep: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name/held/:step',
    about: 'Holds the result that a step had in a run, for later tries of the draft',
    body: z.object({ run: z.string() }),
    answer: done,
  },
  releaseStep: {
    method: 'DELETE',
    role: 'builder',
    path: '/flows/:name/held/:step',
    about: 'Lets a held result go',
    answer: done,
  },
  flowTrials: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/trials',
    about: 'What trying a flow has kept: held results and inputs',
    answer: z.object({ held: z.array(b.heldStep), samples: z.array(b.sample) }),
  },
  keepSample: {
    method: 'PUT',
    role: 'operator',
    path: '/flows/:name/samples',
    about: 'Keeps an input under a name',
    body: z.object({ name: z.string().max(60), input: json }),
    answer: done,
  },
  removeSample: {
    method: 'DELETE',
    role: 'operator',
    path: '/flows/:name/samples/:sample',
    about: 'Removes a kept input',
    answer: done,
  },
  stepOn: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/step',
    about: 'Lets a run that is stepped through go on, or ends it',
    body: z.object({ go: z.boolean().default(true), path: z.string().optional() }),
    answer: done,
  },

  listApprovals: {
    method: 'GET',
    role: 'viewer',
    path: '/approvals',
    about: 'What people are asked to decide, newest first',
    query: z.object({ open: z.stringbool().default(true) }),
    answer: z.object({ items: z.array(b.approval) }),
  },
  decide: {
    method: 'POST',
    role: 'operator',
    path: '/approvals/:run/decide',
    about: 'Approves or refuses',
    body: z.object({
      path: z.string(),
      decision: z.enum(['approved', 'refused']),
      note: z.string().max(2000).default(''),
    }),
    answer: b.approval,
  },

  listEntries: {
    method: 'GET',
    role: 'viewer',
    path: '/entries',
    about: 'Ways into flows besides tool calls',
    query: z.object({ flow: z.string().optional() }),
    answer: z.object({ items: z.array(b.entry) }),
  },
  addEntry: {
    method: 'POST',
    role: 'builder',
    path: '/entries',
    about: 'Opens a way into a flow',
    body: newEntry,
    answer: b.entry.extend({ newSecret: z.string().nullable().describe('Shown this once') }),
  },
  changeEntry: {
    method: 'PUT',
    role: 'builder',
    path: '/entries/:id',
    about: 'Changes a way in, or switches it on or off',
    body: newEntry.omit({ flow: true }).partial(),
    answer: b.entry,
  },
  removeEntry: { method: 'DELETE', role: 'builder', path: '/entries/:id', about: 'Closes a way in', answer: done },

  exportWorkspace: {
    method: 'GET',
    role: 'viewer',
    path: '/workspace',
    about: 'Everything but secrets and rows, as files',
    answer: z.object({ files: b.workspaceFiles }),
  },
  importWorkspace: {
    method: 'POST',
    role: 'builder',
    path: '/workspace',
    about: 'Takes files in; all of them or none',
    body: z.object({ files: b.workspaceFiles, overwrite: z.boolean().default(false) }),
    answer: b.workspaceImported,
  },
  compareWorkspace: {
    method: 'POST',
    role: 'viewer',
    path: '/workspace/compare',
    about: 'How files differ from what is here',
    body: z.object({ files: b.workspaceFiles }),
    answer: z.object({ items: z.array(b.workspaceChange) }),
  },

  readDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents/read',
    about: 'Lists what an OpenAPI document offers; changes nothing',
    body: source,
    answer: b.apiDocument,
  },
  takeDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents',
    about: 'Makes a flow of each chosen operation',
    body: source.extend({
      name: z.string(),
      operations: z.array(z.string()).min(1).max(250),
      base: z.string().optional().describe('Base address; the first one in the document if left out'),
      credential: z.string().optional().describe('The credential that goes along'),
    }),
    answer: b.keptDocument,
  },
  listDocuments: {
    method: 'GET',
    role: 'viewer',
    path: '/documents',
    about: 'OpenAPI documents that flows were made from',
    answer: z.object({ items: z.array(b.keptDocument) }),
  },
  updateDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents/:name/update',
    about: "Reads a document again and says what differs, or changes the flows without losing the builder's edits",
    body: source.extend({ apply: z.boolean().default(false) }),
    answer: z.object({ document: b.keptDocument, items: z.array(b.apiUpdate), fresh: z.array(b.apiOperation) }),
  },
  tryOut: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/try/stream',
    about: 'Tries the draft out and tells what happens as it happens',
    body: z.object({
      input: json.default({}),
      trial: b.runTrial.prefault({}),
      session: z.string().max(200).optional(),
    }),
    answer: r.liveEvent,
    stream: true,
  },
} as const;
