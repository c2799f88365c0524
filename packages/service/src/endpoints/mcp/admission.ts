import type { IncomingMessage } from 'node:http';
import type { Socket } from 'node:net';
import { bytesIn, PindroError } from '@pindro/core';
import { type Access, type KeyStore, type Presented, UNLIMITED } from '../../keys/store.js';
import type { EndpointStore } from '../store.js';
import type { Diary } from './diary.js';

const ANYBODY: Access = {
  ...UNLIMITED,
  id: 'open',
  name: 'open endpoint',
  caller: { id: 'anybody', attributes: {} },
  stage: 'live',
  endpoints: [],
};
/** So many wrong keys may come from one address in a minute; then it has to wait, right or wrong. */
const WRONG_A_MINUTE = 20;
const MINUTE = 60_000;
/** So many addresses are remembered. */
const MOST = 10_000;

interface Parts {
  endpoints: EndpointStore;
  keys: KeyStore;
  diary: Diary;
  /** Whether open endpoints are open: only while nobody from elsewhere can reach them, unless that is forced. */
  mayBeOpen: boolean;
  /** The largest body that may be taken at all, in bytes. */
  bodyLimit: number;
}

/** Who calls an endpoint, and whether they may. A stranger does not learn which endpoints there are. */
export class Admission {
  /** Wrong keys by address. */
  readonly #wrong = new Map<string, { times: number; until: number }>();
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
    const from = socket.remoteAddress ?? '';
    const wrong = this.#wrong.get(from);
    if (wrong && wrong.times >= WRONG_A_MINUTE && wrong.until > Date.now()) throw new PindroError('too_many_requests');
    try {
      const presented = this.parts.keys.hold(headers.authorization);
      this.#held.set(socket, { header: headers.authorization, presented });
      return presented.access;
    } catch (error) {
      if (error instanceof PindroError && error.code === 'key_unknown') this.#count(from);
      throw error;
    }
  }

  #count(from: string): void {
    const now = Date.now();
    const before = this.#wrong.get(from);
    const times = before && before.until > now ? before.times + 1 : 1;
    this.#wrong.delete(from);
    this.#wrong.set(from, { times, until: now + MINUTE });
    if (this.#wrong.size > MOST) this.#wrong.delete(this.#wrong.keys().next().value!);
  }

  /** Notes a refusal on the endpoint it was meant for, so that whoever waits for a client sees why none comes. */
  refused(name: string, error: PindroError): void {
    const endpoint = this.parts.endpoints.find(name)?.name;
    if (endpoint)
      this.parts.diary.note(endpoint, () => ({
        kind: 'refused',
        client: '',
        text: `${error.message}. ${error.hint}`,
        run: null,
      }));
  }
}
