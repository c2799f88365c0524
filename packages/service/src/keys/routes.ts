import { type JsonObject, PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { KeyStore } from './store.js';

/** @param requireEndpoint throws when there is no endpoint of that name */
export function keyRoutes(api: Api, store: KeyStore, requireEndpoint: (name: string) => void): void {
  api.on('listKeys', () => ({ items: store.list() }));
  api.on('issueKey', ({ body, who }) => {
    if (body.manage && who.role !== 'owner')
      throw new PindroError('role_too_low', { name: who.name, role: who.role, needed: 'owner' });
    for (const endpoint of body.endpoints) if (endpoint !== '*') requireEndpoint(endpoint);
    return store.issue({ ...body, attributes: body.attributes as JsonObject });
  });
  api.on('rotateKey', (call) => store.rotate(call.param('id'), call.body.overlap));
  api.on('revokeKey', (call) => store.revoke(call.param('id')));
}
