import { PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { CredentialStore } from './store.js';

/** @param usedBy what uses a credential, as words for people */
export function credentialRoutes(api: Api, store: CredentialStore, usedBy: (name: string) => string[]): void {
  api.on('listCredentials', () => ({ items: store.list(usedBy) }));
  api.on('addCredential', ({ body }) => {
    store.add(body);
    return store.summary(body.name, usedBy(body.name));
  });
  api.on('changeSecret', (call) => {
    const name = call.param('name');
    store.change(name, call.body.secret);
    return store.summary(name, usedBy(name));
  });
  api.on('setOrigins', (call) => {
    const name = call.param('name');
    store.setOrigins(name, call.body.origins);
    return store.summary(name, usedBy(name));
  });
  api.on('removeCredential', (call) => {
    const name = call.param('name');
    const users = usedBy(name);
    if (users.length > 0) throw new PindroError('in_use', { what: 'Credential', name, users: users.join(', ') });
    store.remove(name);
    return { done: true };
  });
}
