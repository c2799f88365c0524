import type { Capability } from '../platform/capability.js';
import { webFetch } from '../platform/fetch.js';
import { modelRoutes } from './routes.js';
import { ModelStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    models: ModelStore;
  }
}

export const modelsCapability: Capability = {
  name: 'models',
  open: ({ config, bus, credentials }) => ({
    models: new ModelStore(config, bus, {
      fetch: webFetch,
      secrets: { reveal: async (name) => credentials.reveal(name) },
    }),
  }),
  routes: (api, { models }) => modelRoutes(api, models),
};
