import { z } from 'zod';
import * as b from '../building-resources.js';
import type { Route } from './route.js';
import { document } from './shapes.js';

/** The workspace as files. */
export const workspace = {
  exportWorkspace: {
    method: 'GET',
    role: 'viewer',
    path: '/workspace',
    about: 'Everything but secrets and runs, as files',
    query: z.object({
      rows: z.stringbool().default(false).describe('Rows of tables too'),
      people: z.stringbool().default(false).describe('Who may use the console too; for owners'),
      drafts: z.stringbool().default(false).describe('Drafts alone, without what is live'),
    }),
    answer: z.object({ files: b.workspaceFiles }),
  },
  importWorkspace: {
    method: 'POST',
    role: 'builder',
    path: '/workspace',
    about: 'Takes files in; all of them or none',
    body: z.object({
      files: b.workspaceFiles,
      overwrite: z.boolean().default(false).describe('Also over what is here and differs; secrets and ids stay'),
      drafts: z.boolean().default(false).describe('Without what is live in the files'),
    }),
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
  exportBundle: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/bundle',
    about: 'A flow with what it needs, as one document to hand on',
    answer: z.object({ text: z.string().describe('YAML') }),
  },
  previewBundle: {
    method: 'POST',
    role: 'viewer',
    path: '/bundles/preview',
    about: 'Lists what a bundle holds and needs, and what of it is here; changes nothing',
    body: z.object({ document }),
    answer: z.object({
      flow: z.string().describe('The flow that it is about'),
      items: z.array(
        z.object({
          type: z.enum(['flows', 'tables', 'servers', 'models', 'credentials', 'endpoints']),
          name: z.string(),
          exists: z.boolean(),
          known: z.array(z.string()).describe('The names here that it can be matched to; none for a flow'),
        }),
      ),
    }),
  },
  importBundle: {
    method: 'POST',
    role: 'builder',
    path: '/bundles',
    about: 'Takes a bundle in: flows as drafts, and tables that are not there; all of it or nothing',
    body: z.object({
      document,
      match: z
        .partialRecord(
          z.enum(['tables', 'servers', 'models', 'credentials', 'endpoints']),
          z.record(z.string(), z.string()),
        )
        .default({})
        .describe('What is here by what it names: {"servers": {"lift": "cable"}}'),
      overwrite: z.boolean().default(false).describe('Also over flows of the same names'),
    }),
    answer: z.object({
      flows: z.array(z.string()),
      tables: z.array(z.string()),
      gaps: z.array(b.gap),
    }),
  },
} as const satisfies Record<string, Route>;
