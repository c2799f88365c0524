import type { IncomingMessage } from 'node:http';
import type { Socket } from 'node:net';
import { bytesIn, PindroError, withHint } from '@pindro/core';
import type { FailedAuthentications } from '../../keys/failed-authentications.js';
import { type Access, type KeyStore, type Presented, UNLIMITED } from '../../keys/store.js';
import type { EndpointStore } from '../store.js';
import type { EndpointLog } from './endpoint-log.js';

const ANYBODY: Access = {
  ...UNLIMITED,
  id: 'open',
  name: 'open endpoint',
  caller: { id: 'anybody', attributes: {} },
  stage: 'live',
  endpoints: [],
};
interface Parts {
  endpoints: EndpointStore;
  keys: KeyStore;
  guesses: FailedAuthentications;
  endpointLog: EndpointLog;
  /** Whether open endpoints are open: only while nobody from elsewhere can reach them, unless that is forced. */
  mayBeOpen: boolean;
  /** The largest body that may be taken at all, in bytes. */
  bodyLimit: number;
}

/** Who calls an endpoint, and whether they may. A stranger does not learn which endpoints there are. */
export class Admission {
  /** What a connection presented last: a client sends the same key with every call. */
  readonly #held = new WeakMap<Socket, { header: string | undefined; presented: Presented }>();

  constructor(private readonly parts: Parts) {}

  /** @returns the endpoint by its present name. @throws not_signed_in, key_unknown …, not_allowed, too_many_requests */
  admit(name: string, request: IncomingMessage): { endpoint: string; access: Access; bodyLimit: number } {
    const { endpoints, mayBeOpen, bodyLimit } = this.parts;
    const known = endpoints.find(name);
    const isOpen = mayBeOpen && known?.access === 'open' && !request.headers.authorization;
    const access = isOpen ? ANYBODY : this.#present(request);
    const all = access.endpoints.includes('*') && !endpoints.isBuiltIn(name);
    const opens = isOpen || all || (known && access.endpoints.includes(known.name));
    if (!opens) throw new PindroError('not_allowed', { name: access.name, what: `endpoint "${name}"` });
    endpoints.requireOn(name);
    const document = endpoints.get(name);
    return { endpoint: document.name, access, bodyLimit: Math.min(bytesIn(document.body_limit), bodyLimit) };
  }

  #present(request: IncomingMessage): Access {
    const { socket, headers } = request;
    const held = this.#held.get(socket);
    if (held && held.header === headers.authorization && this.parts.keys.isStill(held.presented))
      return held.presented.access;
    const presented = this.parts.guesses.watch(request, () => this.parts.keys.hold(headers.authorization));
    this.#held.set(socket, { header: headers.authorization, presented });
    return presented.access;
  }

  /** Notes a refusal on the endpoint it was meant for, so that whoever waits for a client sees why none comes. */
  refused(name: string, error: PindroError): void {
    const endpoint = this.parts.endpoints.find(name)?.name;
    if (endpoint)
      this.parts.endpointLog.note(endpoint, () => ({
        kind: 'refused',
        client: '',
        text: withHint(error),
        run: null,
      }));
  }
}
