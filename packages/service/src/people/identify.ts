import { PindroError } from '@pindro/core';
import { parse as parseCookie } from 'cookie';
import type { Request, RequestHandler, Response } from 'express';
import type { FailedAuthentications } from '../keys/failed-authentications.js';
import type { KeyStore } from '../keys/store.js';
import { remember } from '../platform/api.js';
import type { PeopleStore } from './store.js';

export const COOKIE = 'pindro_session';

export function sessionToken(request: Request): string | undefined {
  return parseCookie(request.headers.cookie ?? '')[COOKIE];
}

/**
 * Finds out who makes a request to the API: the holder of a key with the scope `manage`, or a signed-in person. The
 * cookie is SameSite=Strict, the gate refuses other origins, and what changes something must say that it comes from
 * a page of the console, so that no other page can act with it.
 */
export function identify(keys: KeyStore, people: PeopleStore, guesses: FailedAuthentications): RequestHandler {
  return (request, _response, next) => {
    const token = sessionToken(request);
    const person = request.headers.authorization === undefined && token ? people.personOf(token) : null;
    if (person) {
      if (request.method !== 'GET' && !fromOwnPage(request)) throw new PindroError('page_unknown');
      const { name, role } = person;
      remember(request, { name, role, caller: { id: name, attributes: {} } });
      return next();
    }
    const access = guesses.watch(request, () => keys.present(request.headers.authorization));
    if (!access.manage) throw new PindroError('not_allowed', { name: access.name, what: 'the API' });
    remember(request, { name: access.name, role: 'owner', caller: access.caller });
    next();
  };
}

/** Whether the browser says so. The gate has refused other origins already; here none at all is not enough. */
const fromOwnPage = ({ headers }: Request) =>
  headers.origin !== undefined || headers['sec-fetch-site'] === 'same-origin';

/** Trades the code of a one-time link for a cookie and shows the console. */
/** @param secure whether browsers reach the service over TLS alone */
export function signInPage(people: PeopleStore, secure: boolean): RequestHandler {
  return (request, response) => {
    try {
      setCookie(response, people.signIn(String(request.query.code ?? '')), secure);
      response.redirect(303, '/');
    } catch (error) {
      // Whoever is signed in already loses nothing by following an old link.
      const token = sessionToken(request);
      if (!token || !people.personOf(token)) throw error;
      response.redirect(303, '/');
    }
  };
}

/** Trades a name and password for a cookie. */
/** @param secure whether browsers reach the service over TLS alone */
export function signInWithPassword(people: PeopleStore, secure: boolean): RequestHandler {
  return async (request, response) => {
    const { name, password } = (request.body ?? {}) as { name?: unknown; password?: unknown };
    if (typeof name !== 'string' || typeof password !== 'string' || password.length > 200)
      throw new PindroError('password_wrong');
    setCookie(response, await people.signInWith(name, password), secure);
    response.json({ done: true });
  };
}

function setCookie(response: Response, token: string, secure: boolean): void {
  response.cookie(COOKIE, token, {
    httpOnly: true,
    sameSite: 'strict',
    // Behind a proxy that speaks TLS with browsers the request itself may have come without.
    secure: secure || response.req.secure,
    path: '/',
    maxAge: 30 * 24 * 60 * 60_000,
  });
}
