import type { IncomingMessage } from 'node:http';
import proxyAddr from 'proxy-addr';
import type { Settings } from './settings.js';

/** Where a request comes from and what it was sent to, through proxies whose word is taken. */
export interface RequestOrigin {
  /** The address of who made it. */
  addressOf(request: IncomingMessage): string;
  /** Whether it came over TLS, up to a trusted proxy at least. */
  isSecure(request: IncomingMessage): boolean;
  /** The origins whose pages are pages of this service (RFC 6454), as the request sees it. */
  ownOrigins(request: IncomingMessage): string[];
}

export function requestOrigin({
  trustedProxies,
  publicUrl,
}: Pick<Settings, 'trustedProxies' | 'publicUrl'>): RequestOrigin {
  const trusts = proxyAddr.compile([...trustedProxies]);
  const publicOrigin = publicUrl === undefined ? [] : [new URL(publicUrl).origin];
  const isProxied = (request: IncomingMessage) => trusts(request.socket.remoteAddress ?? '', 0);
  const isSecure = (request: IncomingMessage) => {
    if ((request.socket as { encrypted?: boolean }).encrypted === true) return true;
    const forwarded = request.headers['x-forwarded-proto'];
    return (
      isProxied(request) &&
      String(forwarded ?? '')
        .split(',')[0]!
        .trim() === 'https'
    );
  };
  return {
    // Most requests come straight here, and the list of proxies is not gone through for each.
    addressOf: (request) => (isProxied(request) ? proxyAddr(request, trusts) : (request.socket.remoteAddress ?? '')),
    isSecure,
    ownOrigins: (request) => [
      ...publicOrigin,
      `${isSecure(request) ? 'https' : 'http'}://${request.headers.host?.toLowerCase() ?? ''}`,
    ],
  };
}
