import type { Capability } from '../platform/capability.js';
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
  open: ({ settings, config, bus, masker, former, clocks }) => {
    const vault = new Vault(settings.data, settings.secretKey);
    return { vault, credentials: new CredentialStore(config, vault, bus, former, masker, clocks) };
  },
  routes: (api, parts) => credentialRoutes(api, parts.credentials, parts.objects, () => parts.servers),
};
