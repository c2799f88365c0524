import type { Capability } from '../platform/capability.js';
import { usersOf } from '../usage.js';
import { credentialRoutes } from './routes.js';
import { CredentialStore } from './store.js';
import { Vault } from './vault.js';

declare module '../platform/capability.js' {
  interface Parts {
    vault: Vault;
    credentials: CredentialStore;
  }
}

export const credentialsCapability: Capability = {
  name: 'credentials',
  open: ({ settings, config, bus, masker }) => {
    const vault = new Vault(settings.data, settings.secretKey);
    return { vault, credentials: new CredentialStore(config, vault, bus, masker) };
  },
  routes: (api, { credentials, flows, endpoints, servers, models, keys }) =>
    credentialRoutes(api, credentials, (name) => [
      ...usersOf('credentials', name, flows, endpoints),
      ...servers.usersOf(name),
      ...models.usersOf(name),
      ...keys.usersOf(name),
    ]),
};
