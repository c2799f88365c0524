import type { Objects } from '../objects/objects.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { CredentialStore } from './store.js';

export function credentialRoutes(api: Api, store: CredentialStore, objects: Objects): void {
  const usedBy = (name: string) => objects.usesOf('credential', name);
  const shown = (name: string) => store.summary(name, usedBy(name));
  const nameOf = (given: string) => store.summary(given, []).name;
  api.on('listCredentials', ({ query }) => ({
    items: store
      .list(() => [])
      .filter((one) => fits(query.search, one.name, one.kind, one.account, ...(one.origins ?? [])))
      .map(({ name }) => shown(name)),
  }));
  api.on('getCredential', (call) => shown(call.param('name')));
  api.on('addCredential', ({ body }) => {
    store.add(body);
    return shown(body.name);
  });
  api.on('changeCredential', (call) => {
    const given = Object.entries(call.body).filter(([, value]) => value !== undefined);
    store.change(call.param('name'), Object.fromEntries(given));
    return shown(call.param('name'));
  });
  api.on('changeSecret', (call) => {
    store.change(call.param('name'), { secret: call.body.secret });
    return shown(call.param('name'));
  });
  api.on('setOrigins', (call) => {
    store.setOrigins(call.param('name'), call.body.origins);
    return shown(call.param('name'));
  });
  api.on('renameCredential', (call) => {
    return objects.rename('credential', nameOf(call.param('name')), call.body.to, store);
  });
  api.on('copyCredential', (call) => {
    store.copy(call.param('name'), call.body.to);
    return { name: call.body.to };
  });
  api.on('credentialUses', (call) => ({ items: usedBy(nameOf(call.param('name'))) }));
  api.on('removeCredential', (call) =>
    objects.remove('credential', nameOf(call.param('name')), { by: call.who.name, ...call.query }),
  );
}
