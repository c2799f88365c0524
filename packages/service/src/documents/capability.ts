import { defineCapability } from '../platform/capability.js';
import { servedDocuments } from './resource.js';
import { documentRoutes } from './routes.js';
import { DocumentStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    documents: DocumentStore;
  }
}

export const documentsCapability = defineCapability({
  name: 'documents',
  needs: ['config', 'endpoints', 'flows', 'former', 'webFetch'],
  gives: ['documents'],
  open: ({ config, flows, bus, webFetch, former }) => ({
    documents: new DocumentStore(config, flows, bus, webFetch, former),
  }),
  resources: ({ documents }) => [servedDocuments(documents)],
  routes: (api, { documents, flows, endpoints }) => documentRoutes(api, documents, { flows, endpoints }),
  close: ({ documents }) => documents.close(),
});
