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
    about: 'Exports everything except secrets and runs as files',
    query: z.object({
      rows: z.stringbool().default(false).describe('Includes rows of tables'),
      people: z.stringbool().default(false).describe('Includes people with access; for owners'),
      drafts: z.stringbool().default(false).describe('Drafts only, without live revisions'),
    }),
    answer: z.object({ files: b.workspaceFiles }),
  },
  importWorkspace: {
    method: 'POST',
    role: 'builder',
    path: '/workspace',
    about: 'Imports files atomically',
    body: z.object({
      files: b.workspaceFiles,
      overwrite: z.boolean().default(false).describe('Replaces things that differ; secrets and IDs remain'),
      drafts: z.boolean().default(false).describe('Ignores live revisions in the files'),
    }),
    answer: b.workspaceImported,
  },
  compareWorkspace: {
    method: 'POST',
    role: 'viewer',
    path: '/workspace/compare',
    about: 'Compares files with the workspace',
    body: z.object({ files: b.workspaceFiles }),
    answer: z.object({ items: z.array(b.workspaceChange) }),
  },
  exportBundle: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/bundle',
    about: 'Exports a flow with what it needs as one document',
    answer: z.object({ text: z.string().describe('YAML') }),
  },
  previewBundle: {
    method: 'POST',
    role: 'viewer',
    path: '/bundles/preview',
    about: 'Lists what a bundle contains and needs, and which of it exists; imports nothing',
    body: z.object({ document }),
    answer: z.object({
      flow: z.string().describe('Flow concerned'),
      items: z.array(
        z.object({
          type: z.enum(['flows', 'tables', 'servers', 'models', 'credentials', 'endpoints']),
          name: z.string(),
          exists: z.boolean(),
          known: z.array(z.string()).describe('Available names to match it with; none for a flow'),
        }),
      ),
    }),
  },
  importBundle: {
    method: 'POST',
    role: 'builder',
    path: '/bundles',
    about: 'Imports a bundle atomically: flows as drafts, and missing tables',
    body: z.object({
      document,
      match: z
        .partialRecord(
          z.enum(['tables', 'servers', 'models', 'credentials', 'endpoints']),
          z.record(z.string(), z.string()),
        )
        .default({})
        .describe('Local names for referenced names: {"servers": {"lift": "cable"}}'),
      overwrite: z.boolean().default(false).describe('Replaces flows of the same names'),
    }),
    answer: z.object({
      flows: z.array(z.string()),
      tables: z.array(z.string()),
      gaps: z.array(b.gap),
    }),
  },
} as const satisfies Record<string, Route>;
