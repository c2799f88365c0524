import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import { PindroError } from '@pindro/core';
import ipaddr from 'ipaddr.js';

let grant: (url: URL, direct: boolean) => ReachPermit;
/** The capability to open a connection to one address. Only {@link ReachPolicy} makes one, and the way out requires one. */
export class ReachPermit {
  readonly #url: URL;
  readonly #direct: boolean;
  private constructor(url: URL, direct: boolean) {
    this.#url = url;
    this.#direct = direct;
  }
  static {
    grant = (url, direct) => new ReachPermit(url, direct);
  }
  get url(): URL {
    return this.#url;
  }
  /** Whether whoever runs the service named this address, so that no name resolution can lead it elsewhere unseen. */
  get isDirect(): boolean {
    return this.#direct;
  }
}

/** Addresses of a host name. */
export type Resolve = (host: string) => Promise<string[]>;

export const systemResolve: Resolve = async (host) =>
  (await lookup(host, { all: true, verbatim: true })).map(({ address }) => address);

export interface ReachOptions {
  /** Networks, addresses and host names that may be reached although they are private. */
  allowed: readonly string[];
  /** Whether private networks and this machine may be reached without being named. */
  privateToo: boolean;
  /** Where the service itself is reached: its own addresses with their ports, as it listens and as others see it. */
  own(): { port: number; hosts: readonly string[] }[];
  resolve?: Resolve | undefined;
}

type Range = 'public' | 'private' | 'never';
/** What ranges of addresses are (as the library names them): nobody's outside, or nothing that anybody means. */
const RANGES: Record<string, Range> = {
  unicast: 'public',
  private: 'private',
  loopback: 'private',
  uniqueLocal: 'private',
  carrierGradeNat: 'private',
  // Addresses that stand for another one, which may be of any kind.
  rfc6052: 'private',
  rfc6145: 'private',
  '6to4': 'private',
  teredo: 'private',
  benchmarking: 'private',
};
/** Metadata addresses of clouds, in addition to link-local ones. */
const METADATA = ['fd00:ec2::254', '100.100.100.200', '168.63.129.16', '192.0.0.192'];

/**
 * Where what flows, tool servers and models ask for may go. Link-local and metadata addresses and the service's own API
 * never; this machine and private networks as the settings say. What it looks at are addresses, after a name was
 * resolved; whoever connects must connect to just those.
 */
export class ReachPolicy {
  readonly #hosts: ReadonlySet<string>;
  readonly #networks: [ipaddr.IPv4 | ipaddr.IPv6, number][];
  readonly #resolve: Resolve;

  constructor(private readonly options: ReachOptions) {
    const named = options.allowed.map((one) => one.toLowerCase());
    this.#networks = named.map(networkOf).filter((one) => one !== null);
    this.#hosts = new Set(named.filter((one) => networkOf(one) === null));
    this.#resolve = options.resolve ?? systemResolve;
  }

  /** Refuses an address whose host needs no resolving to see that. @throws address_forbidden */
  requireUrl(url: URL): void {
    const host = hostOf(url);
    const port = portOf(url);
    if (isIP(host)) this.#requireAddress(host, url.host, port, url.pathname);
    const own = this.options.own().some((one) => one.port === port && one.hosts.includes(host));
    if (own) throw ownAddress(url.host, url.pathname);
  }

  /** Permits a connection to an address that a flow, a server or a person names. @throws address_forbidden */
  permit(url: URL): ReachPermit {
    this.requireUrl(url);
    return grant(url, false);
  }

  /** Permits a connection to the service itself, and else what {@link permit} permits. For the self-test of endpoints. */
  permitSelf(url: URL): ReachPermit {
    const isOwn = this.options.own().some(({ port, hosts }) => port === portOf(url) && hosts.includes(hostOf(url)));
    return isOwn ? grant(url, true) : this.permit(url);
  }

  /** Permits a connection to an address of the settings: whoever runs the service decided that. */
  permitConfigured(address: string): ReachPermit {
    return grant(new URL(address), true);
  }

  /** Addresses of a host name, if all are reachable. @throws address_forbidden */
  async addressesOf(host: string, port: number): Promise<string[]> {
    const addresses = isIP(host) ? [host] : await this.#resolve(host);
    if (addresses.length === 0)
      throw Object.assign(new Error(`the host ${host} cannot be resolved`), { code: 'ENOTFOUND' });
    for (const address of addresses) this.#requireAddress(address, host, port);
    return addresses;
  }

  #requireAddress(text: string, host: string, port: number, path = ''): void {
    const address = ipaddr.process(text);
    const loopback = address.range() === 'loopback' || address.range() === 'unspecified';
    if (loopback && this.options.own().some((own) => own.port === port)) throw ownAddress(host, path);
    const range: Range = METADATA.includes(address.toString()) ? 'never' : (RANGES[address.range()] ?? 'never');
    if (range === 'public') return;
    const shown = text === host.replace(/^\[|\]$/g, '') ? host : `${host} (${text})`;
    if (range === 'never')
      throw new PindroError(
        'address_forbidden',
        { address: shown, why: 'it is a network address, not a host address' },
        { details: { host } },
      );
    if (this.options.privateToo || this.#isNamed(host, address)) return;
    throw new PindroError(
      'address_forbidden',
      { address: shown, why: `it is on a private network; allow it with --reach ${host}` },
      { details: { host } },
    );
  }

  #isNamed(host: string, address: ipaddr.IPv4 | ipaddr.IPv6): boolean {
    if (this.#hosts.has(host.toLowerCase().replace(/:\d+$/, ''))) return true;
    return this.#networks.some(([network, bits]) => network.kind() === address.kind() && address.match(network, bits));
  }
}

const hostOf = (url: URL) => url.hostname.replace(/^\[|\]$/g, '').toLowerCase();
const portOf = (url: URL) => Number(url.port || (url.protocol === 'https:' ? 443 : 80));

function networkOf(text: string): [ipaddr.IPv4 | ipaddr.IPv6, number] | null {
  if (ipaddr.isValidCIDR(text)) return ipaddr.parseCIDR(text) as [ipaddr.IPv4 | ipaddr.IPv6, number];
  if (!isIP(text)) return null;
  const address = ipaddr.process(text);
  return [address, address.kind() === 'ipv4' ? 32 : 128];
}

/** Our own endpoints are used in process, by their names; a way around through the network would lose the trace. */
function ownAddress(host: string, path: string): PindroError {
  const endpoint = /^\/mcp\/([^/]+)/.exec(path)?.[1];
  const why = endpoint
    ? `it is Pindro's own endpoint "${endpoint}"; add it to the toolbox as "endpoint: ${endpoint}", which calls it in process`
    : 'it is Pindro itself; use a flow or an endpoint by its name';
  return new PindroError('address_forbidden', { address: host, why });
}
