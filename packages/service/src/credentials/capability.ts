import { secretReason } from '@pindro/core';
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

/** A shorter value of the environment is likelier a word than a secret, in characters. */
const LONG_ENOUGH = 8;

export const credentialsCapability: Capability = {
  name: 'credentials',
  open: ({ settings, config, bus, masker, former, clocks }) => {
    const vault = new Vault(settings.data, settings.secretKey);
    // What the service finds in its environment is nobody's to see or to send either.
    for (const [name, value = ''] of Object.entries(process.env))
      if (value.length >= LONG_ENOUGH && secretReason(name, value) !== null) masker.add(value);
    return { vault, credentials: new CredentialStore(config, vault, bus, former, masker, clocks) };
  },
  routes: (api, parts) => credentialRoutes(api, parts.credentials, parts.objects, () => parts.servers),
};
