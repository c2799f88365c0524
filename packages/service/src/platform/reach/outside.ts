import { isIP, type LookupFunction } from 'node:net';
import { rootCertificates } from 'node:tls';
import { Agent, buildConnector, ProxyAgent, type RequestInit, type Response, fetch as undiciFetch } from 'undici';
import type { ReachPermit, ReachPolicy } from './policy.js';

/** Maximum number of redirects. */
const MOST_REDIRECTS = 10;
/** Headers that are sent to another origin on a redirect: none that could contain a secret. */
const HARMLESS = new Set(['accept', 'accept-language', 'content-type', 'user-agent', 'traceparent', 'tracestate']);
const REDIRECTS = new Set([301, 302, 303, 307, 308]);

/** What a way to somewhere is made of, where it is not the usual one. */
export interface Way {
  /** Additional trusted authorities, in PEM. */
  ca?: string | undefined;
  /** Certificate and key with which we show who we are, in PEM. */
  identity?: string | undefined;
  proxy?: string | undefined;
}

/** The one way out to the web: every address is held against the policy, after resolving, and for every redirect. */
export class Outside {
  readonly #agent: Agent | ProxyAgent;

  /** @param proxy a proxy that reaches everything; names are then its to resolve */
  constructor(
    private readonly policy: ReachPolicy,
    private readonly proxy?: string,
  ) {
    this.#agent = proxy
      ? new ProxyAgent(proxy)
      : new Agent({ connect: (options, done) => this.#connect(options, done) });
  }

  /** Ways of their own, by what they are made of. */
  readonly #ways = new Map<string, Agent | ProxyAgent>();

  /** The way through a proxy, or with certificates, of a server's own; the usual one where it has none. */
  way(network: Way): Agent | ProxyAgent {
    if (!network.ca && !network.identity && !network.proxy) return this.#agent;
    const key = JSON.stringify(network);
    let agent = this.#ways.get(key);
    if (!agent) {
      const tls = {
        ...(network.ca && { ca: [...rootCertificates, network.ca] }),
        ...(network.identity && { cert: network.identity, key: network.identity }),
      };
      if (network.proxy) this.policy.requireUrl(new URL(network.proxy));
      agent = network.proxy
        ? new ProxyAgent({ uri: network.proxy, requestTls: tls })
        : new Agent({ connect: (options, done) => this.#connect(options, done, tls) });
      this.#ways.set(key, agent);
    }
    return agent;
  }

  /** The connection uses a checked address, and no other. */
  readonly #connect = (
    options: buildConnector.Options,
    done: buildConnector.Callback,
    tls: { ca?: string[]; cert?: string; key?: string } = {},
  ): void => {
    const port = Number(options.port || (options.protocol === 'https:' ? 443 : 80));
    const lookup: LookupFunction = (host, { all }, found) => {
      this.policy.addressesOf(host, port).then(
        (addresses) => {
          const list = addresses.map((address) => ({ address, family: isIP(address) }));
          if (all) found(null, list);
          else found(null, list[0]!.address, list[0]!.family);
        },
        (error: Error) => found(error, ''),
      );
    };
    buildConnector({ lookup, ...tls })(options, done);
  };

  /**
   * Sends a request and follows redirects. A credential goes to the origin it was meant for and to no other.
   * @throws address_forbidden, and what the network says
   */
  async fetch(address: string | URL, init: RequestInit = {}, network: Way = {}): Promise<Response> {
    let url = new URL(address);
    let request: RequestInit = init;
    for (let turn = 0; ; turn++) {
      const response = await this.#send(this.policy.permit(url), request, network);
      const location = response.headers.get('location');
      if (!REDIRECTS.has(response.status) || location === null || init.redirect === 'manual') return response;
      await response.body?.cancel();
      if (turn >= MOST_REDIRECTS) throw new Error(`it redirected ${MOST_REDIRECTS} times`);
      const next = new URL(location, url);
      request = redirected(request, response.status, next.origin === url.origin);
      url = next;
    }
  }

  /** Sends one request, to the service itself or wherever {@link fetch} may go; redirects are not followed. */
  fetchSelf(address: string, init: RequestInit = {}): Promise<Response> {
    return this.#send(this.policy.permitSelf(new URL(address)), init);
  }

  /** Sends one request to a configured address; redirects are not followed. */
  fetchConfigured(address: string, init: RequestInit = {}): Promise<Response> {
    return this.#send(this.policy.permitConfigured(address), init);
  }

  #send(permit: ReachPermit, request: RequestInit, network: Way = {}): Promise<Response> {
    const dispatcher = permit.isDirect ? {} : { dispatcher: this.way(network) };
    return undiciFetch(permit.url, { ...request, redirect: 'manual', ...dispatcher });
  }

  /** Resolved addresses of a host, if all are reachable; null if a proxy resolves it. */
  async addressesOf(address: string): Promise<string[] | null> {
    const url = new URL(address);
    this.policy.requireUrl(url);
    if (this.proxy) return null;
    return this.policy.addressesOf(
      url.hostname.replace(/^\[|\]$/g, ''),
      Number(url.port) || (url.protocol === 'https:' ? 443 : 80),
    );
  }

  async close(): Promise<void> {
    await Promise.all([this.#agent, ...this.#ways.values()].map((agent) => agent.destroy()));
  }
}

/** What is asked of the next address (Fetch standard, HTTP-redirect fetch). */
function redirected(request: RequestInit, status: number, sameOrigin: boolean): RequestInit {
  const headers = new Headers(request.headers as Record<string, string>);
  if (!sameOrigin) for (const name of [...headers.keys()]) if (!HARMLESS.has(name)) headers.delete(name);
  const method = (request.method ?? 'GET').toUpperCase();
  const becomesGet = (status === 303 && method !== 'HEAD') || ((status === 301 || status === 302) && method === 'POST');
  if (!becomesGet) return { ...request, headers: Object.fromEntries(headers) };
  headers.delete('content-type');
  return { ...request, method: 'GET', body: null, headers: Object.fromEntries(headers) };
}
