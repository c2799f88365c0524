import type { Api } from '../platform/api.js';
import { COOKIE, sessionToken } from './identify.js';
import type { PeopleStore } from './store.js';

export function peopleRoutes(api: Api, people: PeopleStore, address: () => string): void {
  api.on('signInLink', () => ({ url: `${address()}/sign-in?code=${people.newCode()}` }));
  api.on('signOut', ({ request, response }) => {
    const token = sessionToken(request);
    if (token) people.signOut(token);
    response.clearCookie(COOKIE, { path: '/' });
    return { done: true };
  });
}
