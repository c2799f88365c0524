import { z } from 'zod';
import * as b from '../building-resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';

const source = z.object({
  url: z.string().optional().describe('Where the OpenAPI document is read'),
  text: z.string().optional().describe('Or the document itself'),
});

/** OpenAPI documents that flows are made from. */
export const documents = {
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
    about: 'Makes a flow of each chosen operation, and a tool of each where an endpoint is named',
    body: source.extend({
      name: z.string(),
      operations: z.array(z.string()).min(1).max(250),
      base: z.string().optional().describe('Base address; the first one in the document if left out'),
      credential: z.string().optional().describe('The credential that goes along'),
      endpoint: z
        .string()
        .optional()
        .describe('Publishes the flows and adds each to this endpoint as a tool; it is made if it is not there'),
    }),
    answer: b.keptDocument.extend({ tools: z.array(z.string()).describe('Tools on the endpoint') }),
  },
  listDocuments: {
    method: 'GET',
    role: 'viewer',
    path: '/documents',
    about: 'OpenAPI documents that flows were made from',
    query: o.searching,
    answer: z.object({ items: z.array(b.keptDocument) }),
  },
  getDocument: {
    method: 'GET',
    role: 'viewer',
    path: '/documents/:name',
    about: 'One OpenAPI document that flows were made from',
    answer: b.keptDocument,
  },
  changeDocument: {
    method: 'PUT',
    role: 'builder',
    path: '/documents/:name',
    about: 'Changes where a document is read, and the base address and credential of the flows made of it from now on',
    body: z.object({
      url: z.string().nullable().optional().describe('null: it is handed in'),
      base: z.string().optional(),
      credential: z.string().nullable().optional(),
    }),
    answer: b.keptDocument,
  },
  renameDocument: o.renaming('/documents/:name', 'builder', 'document'),
  removeDocument: o.removing('/documents/:name', 'builder', 'Forgets a document; the flows made of it stay'),
  updateDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents/:name/update',
    about: "Reads a document again and says what differs, or changes the flows without losing the builder's edits",
    body: source.extend({ apply: z.boolean().default(false) }),
    answer: z.object({ document: b.keptDocument, items: z.array(b.apiUpdate), fresh: z.array(b.apiOperation) }),
  },
} as const satisfies Record<string, Route>;
