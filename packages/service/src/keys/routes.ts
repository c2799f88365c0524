import { type JsonObject, PindroError } from '@pindro/core';
import type { Api, Who } from '../platform/api.js';
import type { KeyStore } from './store.js';

/** Each throws when there is nothing of that name. */
interface Requires {
  endpoint(name: string): void;
  server(name: string): void;
  credential(name: string): void;
}

/** A key that opens the API is as good as an owner: who changes one needs the same rank as who makes one. */
function requireRank(who: Who, manages: boolean): void {
  if (manages && who.role !== 'owner')
    throw new PindroError('role_too_low', { name: who.name, role: who.role, needed: 'owner' });
}

export function keyRoutes(api: Api, store: KeyStore, require: Requires): void {
  api.on('listKeys', () => ({ items: store.list() }));
  api.on('issueKey', ({ body, who }) => {
    requireRank(who, body.manage);
    for (const endpoint of body.endpoints) if (endpoint !== '*') require.endpoint(endpoint);
    for (const [server, credential] of Object.entries(body.credentials)) {
      require.server(server);
      require.credential(credential);
    }
    return store.issue({ ...body, attributes: body.attributes as JsonObject });
  });
  api.on('rotateKey', (call) => {
    requireRank(call.who, store.summary(call.param('id')).manage);
    return store.rotate(call.param('id'), call.body.overlap);
  });
  api.on('revokeKey', (call) => {
    requireRank(call.who, store.summary(call.param('id')).manage);
    return store.revoke(call.param('id'));
  });
}
