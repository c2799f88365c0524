import { asPindroError, milliseconds, PindroError } from '@pindro/core';
import type { Objects } from '../objects/objects.js';
import type { Api, Who } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { CredentialStore } from './store.js';

interface Dependants {
  /** Names of the servers that use a credential. */
  usersOf(credential: string): string[];
  refresh(server: string): Promise<unknown>;
}

/** What is read on the machine of the service is read with the rights of the service. @throws role_too_low */
export function requireReader({ name, role }: Who): void {
  if (role !== 'owner') throw new PindroError('role_too_low', { name, role, needed: 'owner' });
}

export function credentialRoutes(api: Api, store: CredentialStore, objects: Objects, servers: Dependants): void {
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
  api.on('addCredential', ({ body, who }) => {
    if (body.source) requireReader(who);
    if (!body.source && body.secret === undefined)
      throw new PindroError('request_invalid', { why: 'A credential needs a secret or a source' }, { at: '/secret' });
    store.add(body);
    return shown(body.name);
  });
  api.on('updateCredential', (call) => {
    const { keep, ...body } = call.body;
    if (body.source) requireReader(call.who);
    const given = Object.entries(body).filter(([, value]) => value !== undefined);
    store.change(call.param('name'), { ...Object.fromEntries(given), keep: keep ? milliseconds(keep) : undefined });
    return shown(call.param('name'));
  });
  api.on('replaceSecret', (call) => {
    const { secret, keep } = call.body;
    store.change(call.param('name'), { secret, keep: keep ? milliseconds(keep) : undefined });
    return shown(call.param('name'));
  });
  api.on('testCredential', async (call) => {
    const name = nameOf(call.param('name'));
    const asked = servers.usersOf(name).map(async (server) => {
      try {
        await servers.refresh(server);
        return { server, ok: true, says: 'access granted' };
      } catch (error) {
        return { server, ok: false, says: asPindroError(error).message };
      }
    });
    return { items: await Promise.all(asked) };
  });
  api.on('setOrigins', (call) => {
    store.setOrigins(call.param('name'), call.body.origins);
    return shown(call.param('name'));
  });
}
