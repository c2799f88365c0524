import { PindroError } from '@pindro/core';
import type { Request, RequestHandler, Response } from 'express';
import type { KeyStore } from '../keys/store.js';
import { remember } from '../platform/api.js';
import type { PeopleStore } from './store.js';

export const COOKIE = 'pindro_session';

export function sessionToken(request: Request): string | undefined {
  const match = new RegExp(`(?:^|;\\s*)${COOKIE}=([\\w-]+)`).exec(request.headers.cookie ?? '');
  return match?.[1];
}

/**
 * Finds out who makes a request to the API: the holder of a key with the scope `manage`, or a signed-in person. The
 * cookie is SameSite=Strict and the gate refuses other origins, so that no other page can act with it.
 */
export function identify(keys: KeyStore, people: PeopleStore): RequestHandler {
  return (request, _response, next) => {
    const token = sessionToken(request);
    if (request.headers.authorization === undefined && token && people.isSession(token)) {
      remember(request, { name: 'owner', caller: { id: 'owner', attributes: {} } });
      return next();
    }
    const access = keys.present(request.headers.authorization);
    if (!access.manage) throw new PindroError('not_allowed', { name: access.name, what: 'the API' });
    remember(request, { name: access.name, caller: access.caller });
    next();
  };
}

/** Trades the code of a one-time link for a cookie and shows the console. */
export function signInPage(people: PeopleStore): RequestHandler {
  return (request, response) => {
    try {
      setCookie(response, people.signIn(String(request.query.code ?? '')));
      response.redirect(303, '/');
    } catch (error) {
      // Whoever is signed in already loses nothing by following an old link.
      const token = sessionToken(request);
      if (!token || !people.isSession(token)) throw error;
      response.redirect(303, '/');
    }
  };
}

function setCookie(response: Response, token: string): void {
  response.cookie(COOKIE, token, {
    httpOnly: true,
    sameSite: 'strict',
    secure: response.req.secure,
    path: '/',
    maxAge: 30 * 24 * 60 * 60_000,
  });
}
