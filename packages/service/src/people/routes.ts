import { PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import { COOKIE, sessionToken } from './identify.js';
import type { PeopleStore } from './store.js';

export function peopleRoutes(api: Api, people: PeopleStore, address: () => string): void {
  const link = (name?: string) => `${address()}/sign-in?code=${people.newCode(name)}`;
  api.on('createSignInLink', ({ body }) => ({ url: link(body.person) }));
  api.on('signOut', ({ request, response }) => {
    const token = sessionToken(request);
    if (token) people.signOut(token);
    response.clearCookie(COOKIE, { path: '/' });
    return { done: true };
  });
  api.on('whoAmI', ({ who, request }) => {
    const token = sessionToken(request);
    const person = token ? people.personOf(token) : null;
    return { name: who.name, role: who.role, hasPassword: person?.hasPassword ?? false };
  });
  api.on('changePassword', async ({ body, request }) => {
    const token = sessionToken(request);
    const person = token ? people.personOf(token) : null;
    if (!person) throw new PindroError('not_signed_in');
    if (person.hasPassword) await people.requirePassword(person.name, body.now ?? '');
    await people.change(person.name, { password: body.password });
    return { done: true };
  });
  api.on('listPeople', ({ query }) => ({
    items: people.list().filter(({ name, role }) => fits(query.search, name, role)),
  }));
  api.on('getPerson', (call) => people.get(call.param('name')));
  api.on('addPerson', async ({ body }) => {
    const person = await people.add(body.name, body.role, body.password);
    return { person, url: link(person.name) };
  });
  api.on('updatePerson', (call) => people.change(call.param('name'), call.body));
}
