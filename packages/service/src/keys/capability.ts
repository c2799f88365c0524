import { defineCapability } from '../platform/capability.js';
import { requestOrigin } from '../platform/origin.js';
import { FailedAuthentications } from './failed-authentications.js';
import { servedKeys } from './resource.js';
import { keyRoutes } from './routes.js';
import { KeyStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    keys: KeyStore;
    guesses: FailedAuthentications;
  }
}

export const keysCapability = defineCapability({
  name: 'keys',
  needs: ['clocks', 'config', 'credentials'],
  later: ['endpoints', 'servers'],
  gives: ['keys', 'guesses'],
  open: ({ config, bus, settings, clocks }) => ({
    keys: new KeyStore(config, bus, clocks),
    guesses: new FailedAuthentications(requestOrigin(settings)),
  }),
  resources: ({ keys }) => [servedKeys(keys)],
  routes: (api, { keys, endpoints, servers, credentials }) =>
    keyRoutes(api, keys, {
      endpoint: (name) => void (name.startsWith('hook/') || endpoints.get(name)),
      server: (name) => void servers.summary(name),
      credential: (name) => void credentials.summary(name, []),
    }),
});
