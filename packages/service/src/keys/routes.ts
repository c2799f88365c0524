import { type JsonObject, PindroError } from '@pindro/core';
import type { Objects } from '../objects/objects.js';
import type { Api, Who } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { KeyChange, KeyStore } from './store.js';

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

export function keyRoutes(api: Api, store: KeyStore, require: Requires, objects: Objects): void {
  const requireAll = (endpoints: string[] = [], credentials: Record<string, string> = {}) => {
    for (const endpoint of endpoints) if (endpoint !== '*') require.endpoint(endpoint);
    for (const [server, credential] of Object.entries(credentials)) {
      require.server(server);
      require.credential(credential);
    }
  };
  api.on('listKeys', ({ query }) => ({
    items: store.list().filter((one) => fits(query.search, one.id, one.name, one.caller, ...one.endpoints)),
  }));
  api.on('getKey', (call) => store.summary(call.param('id')));
  api.on('issueKey', ({ body, who }) => {
    requireRank(who, body.manage);
    requireAll(body.endpoints, body.credentials);
    return store.issue({ ...body, attributes: body.attributes as JsonObject });
  });
  api.on('changeKey', (call) => {
    requireRank(call.who, store.summary(call.param('id')).manage);
    requireAll(call.body.endpoints, call.body.credentials);
    return store.change(call.param('id'), call.body as KeyChange);
  });
  api.on('copyKey', (call) => {
    const { name, caller } = call.body;
    requireRank(call.who, store.summary(call.param('id')).manage);
    return store.copy(call.param('id'), name, caller ?? name);
  });
  api.on('removeKey', (call) => {
    const { id, name, manage } = store.summary(call.param('id'));
    requireRank(call.who, manage);
    return objects.remove('key', id, { by: call.who.name, words: name, ...call.query });
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
