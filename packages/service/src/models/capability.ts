import { defineCapability } from '../platform/capability.js';
import { servedModels } from './resource.js';
import { modelRoutes } from './routes.js';
import { ModelStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    models: ModelStore;
  }
}

export const modelsCapability = defineCapability({
  name: 'models',
  needs: ['config', 'credentials', 'former', 'webFetch'],
  gives: ['models'],
  open: ({ config, bus, credentials, webFetch, former }) => ({
    models: new ModelStore(config, bus, { fetch: webFetch, credentials }, former),
  }),
  resources: ({ models }) => [servedModels(models)],
  routes: (api, { models }) => modelRoutes(api, models),
});
