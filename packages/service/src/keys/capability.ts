import type { Capability } from '../platform/capability.js';
import { keyRoutes } from './routes.js';
import { KeyStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    keys: KeyStore;
  }
}

export const keysCapability: Capability = {
  name: 'keys',
  open: ({ config, bus }) => ({ keys: new KeyStore(config, bus) }),
  routes: (api, { keys, endpoints, servers, credentials }) =>
    keyRoutes(api, keys, {
      endpoint: (name) => void (name.startsWith('hook/') || endpoints.get(name)),
      server: (name) => void servers.summary(name),
      credential: (name) => void credentials.summary(name, []),
    }),
};
