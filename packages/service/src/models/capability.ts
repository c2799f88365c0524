import type { Capability } from '../platform/capability.js';
import { modelRoutes } from './routes.js';
import { ModelStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    models: ModelStore;
  }
}

export const modelsCapability: Capability = {
  name: 'models',
  open: ({ config, bus, credentials, webFetch, former }) => ({
    models: new ModelStore(config, bus, { fetch: webFetch, credentials }, former),
  }),
  routes: (api, { models, objects }) => modelRoutes(api, models, objects),
};
