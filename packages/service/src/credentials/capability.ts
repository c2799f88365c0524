import { defineCapability } from '../platform/capability.js';
import { secretsOfEnvironment } from './environment.js';
import { servedCredentials } from './resource.js';
import { credentialRoutes } from './routes.js';
import { CredentialStore } from './store.js';
import { Vault } from './vault.js';

declare module '../platform/capability.js' {
  interface Parts {
    vault: Vault;
    credentials: CredentialStore;
  }
}

export const credentialsCapability = defineCapability({
  name: 'credentials',
  needs: ['clocks', 'config', 'former', 'objects'],
  later: ['servers'],
  gives: ['vault', 'credentials'],
  open: ({ settings, config, bus, masker, former, clocks }) => {
    const vault = new Vault(settings.data, settings.secretKey);
    // What the service finds in its environment is nobody's to see or to send either.
    for (const secret of secretsOfEnvironment(process.env)) masker.add(secret);
    return { vault, credentials: new CredentialStore({ database: config, vault, bus, former, masker, clocks }) };
  },
  resources: ({ credentials }) => [servedCredentials(credentials)],
  routes: (api, parts) =>
    credentialRoutes(api, parts.credentials, parts.objects, {
      usersOf: (credential) => parts.servers.repository.using(credential),
      refresh: (server) => parts.servers.refresh(server),
    }),
});
