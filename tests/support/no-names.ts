import dns from 'node:dns/promises';
import { syncBuiltinESMExports } from 'node:module';

/* For a process of its own: names are those of this machine, and none is asked for elsewhere. */
const own = dns.lookup;
const lookup = (host: string, ...more: unknown[]) => {
  if (/^(localhost|[\d.]+|[\da-f:]+)$/i.test(host)) return (own as (...all: unknown[]) => unknown)(host, ...more);
  return Promise.reject(Object.assign(new Error(`getaddrinfo ENOTFOUND ${host}`), { code: 'ENOTFOUND' }));
};
dns.lookup = lookup as typeof dns.lookup;
syncBuiltinESMExports();
