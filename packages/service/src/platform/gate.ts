import type { IncomingMessage } from 'node:http';
import { PindroError } from '@pindro/core';
import type { RequestHandler } from 'express';
import type { RequestOrigin } from './origin.js';

const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]']);

/** Whether an address to listen on can be reached from this machine alone. */
export const isLoopback = (host: string) => host === 'localhost' || host === '::1' || host.startsWith('127.');

/** Probes of load balancers and orchestrators, which go by an address of their own choosing; they reveal nothing. */
const PROBES: readonly string[] = ['/healthz', '/readyz'];

/** Host name without its port, in lower case. */
const hostName = (host: string) => host.toLowerCase().replace(/:\d+$/, '');

/**
 * Lets through only requests for a name the service goes by, and from pages of its own. This keeps web pages from
 * reaching it through a name that they control (DNS rebinding) and from acting with a signed-in person's cookie.
 * @param ownRules paths that say themselves which pages may call them
 */
export function gate(guard: Guard, ownRules: (path: string) => boolean): RequestHandler {
  return (request, _response, next) => {
    if (!PROBES.includes(request.path)) guard(request, !ownRules(request.path));
    next();
  };
}

/** Looks at one request. @throws host_refused, origin_refused */
export type Guard = (request: IncomingMessage, origins?: boolean) => void;

/** @param names further host names, in lower case */
export function guardOf(names: ReadonlySet<string>, { ownOrigins }: RequestOrigin): Guard {
  const known = (host: string) => LOOPBACK.has(hostName(host)) || names.has(hostName(host));
  return (request, origins = true) => {
    const { host, origin } = request.headers;
    if (!host || !known(host)) throw new PindroError('host_refused', { host: host ?? '' });
    // A page from another port or by another scheme is another's page.
    if (origins && origin !== undefined && !ownOrigins(request).includes(origin.toLowerCase()))
      throw new PindroError('origin_refused', { origin });
  };
}
