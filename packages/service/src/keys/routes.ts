import { type JsonObject, letOthers } from '@pindro/core';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import { permitKeys } from '../policy/keys.js';
import type { KeyChange, KeyStore } from './store.js';

/** Each throws when there is nothing of that name. */
interface Requires {
  endpoint(name: string): void;
  server(name: string): void;
  credential(name: string): void;
}

export function keyRoutes(api: Api, store: KeyStore, require: Requires): void {
  const requireAll = (endpoints: string[] = [], credentials: Record<string, string> = {}) => {
    for (const endpoint of endpoints) if (endpoint !== '*') require.endpoint(endpoint);
    for (const [server, credential] of Object.entries(credentials)) {
      require.server(server);
      require.credential(credential);
    }
  };
  api.on('listKeys', async ({ query }) => {
    const all = store.list();
    await letOthers();
    return { items: all.filter((one) => fits(query.search, one.id, one.name, one.caller, ...one.endpoints)) };
  });
  api.on('getKey', (call) => store.summary(call.param('id')));
  api.on('issueKey', ({ body, who }) => {
    requireAll(body.endpoints, body.credentials);
    return store.issue({ ...body, attributes: body.attributes as JsonObject }, permitKeys(who));
  });
  api.on('updateKey', (call) => {
    requireAll(call.body.endpoints, call.body.credentials);
    return store.change(call.param('id'), call.body as KeyChange, permitKeys(call.who));
  });
  api.on('copyKey', (call) => {
    const { name, caller } = call.body;
    return store.copy(call.param('id'), name, caller ?? name, permitKeys(call.who));
  });
  api.on('rotateKey', (call) => {
    return store.rotate(call.param('id'), call.body.overlap, permitKeys(call.who));
  });
  api.on('revokeKey', (call) => {
    return store.revoke(call.param('id'), permitKeys(call.who));
  });
}
