import { defineCapability } from '../platform/capability.js';
import { documentRoutes } from './routes.js';
import { DocumentStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    documents: DocumentStore;
  }
}

export const documentsCapability = defineCapability({
  name: 'documents',
  needs: ['config', 'endpoints', 'flows', 'former', 'objects', 'webFetch'],
  gives: ['documents'],
  open: ({ config, flows, bus, webFetch, former }) => ({
    documents: new DocumentStore(config, flows, bus, webFetch, former),
  }),
  routes: (api, { documents, objects, flows, endpoints }) =>
    documentRoutes(api, documents, objects, { flows, endpoints }),
  close: ({ documents }) => documents.close(),
});
