import { z } from 'zod';
import * as b from '../building-resources.js';
import { document } from '../resource/document.js';
import { resourceRoutes } from '../resource/routes.js';
import * as o from './objects.js';
import type { Route } from './route.js';

const source = z.object({
  url: z.string().optional().describe('Address of the OpenAPI document'),
  text: z.string().optional().describe('Or the document itself'),
});

/** OpenAPI documents that flows are made from. */
export const documents = {
  inspectDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents/inspect',
    about: 'Lists the operations of an OpenAPI document without importing it',
    body: source,
    answer: b.apiDocument,
  },
  importDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents',
    about: 'Creates a flow from each chosen operation, and a tool if an endpoint is named',
    body: source.extend({
      name: z.string(),
      operations: z.array(z.string()).min(1).max(250),
      base: z.string().optional().describe('Base address; the first one in the document by default'),
      credential: z.string().optional().describe('Credential to send'),
      endpoint: z
        .string()
        .optional()
        .describe('Publishes the flows and adds each to this endpoint as a tool; creates the endpoint if needed'),
    }),
    answer: b.importedDocument.extend({ tools: z.array(z.string()).describe('Tools on the endpoint') }),
  },
  listDocuments: {
    method: 'GET',
    role: 'viewer',
    path: '/documents',
    about: 'Lists OpenAPI documents that flows were created from',
    query: o.searching,
    answer: z.object({ items: z.array(b.importedDocument) }),
  },
  getDocument: {
    method: 'GET',
    role: 'viewer',
    path: '/documents/:name',
    about: 'Returns one imported OpenAPI document',
    answer: b.importedDocument,
  },
  updateDocument: {
    method: 'PUT',
    role: 'builder',
    path: '/documents/:name',
    about: 'Changes the address of a document, and the base address and credential of flows created from it later',
    body: z.object({
      url: z.string().nullable().optional().describe('null if it was uploaded'),
      base: z.string().optional(),
      credential: z.string().nullable().optional(),
    }),
    answer: b.importedDocument,
  },
  ...resourceRoutes(document),
  refreshDocument: {
    method: 'POST',
    role: 'builder',
    path: '/documents/:name/refresh',
    about:
      "Reads a document again and lists the differences, or updates the flows while preserving the builder's edits",
    body: source.extend({ apply: z.boolean().default(false) }),
    answer: z.object({ document: b.importedDocument, items: z.array(b.apiUpdate), fresh: z.array(b.apiOperation) }),
  },
} as const satisfies Record<string, Route>;
