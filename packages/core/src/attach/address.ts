import { nameFrom } from '../text/naming.js';
import { withoutEnd } from '../text/text-ends.js';
import { unquoted } from './headers.js';
import { type AddressConnection, type OutgoingValue, outgoingValue } from './recognized-server.js';
import { isPlace, isSecretParameter, secretFormat } from './secrets.js';

/** What an address looks like, also one that was written in a hurry. */
const ADDRESS =
  /^(?:(?:h?t{1,3}ps?|wss?)\s*:?\s*[/\\]{1,3}\s*)?(?:[^\s@/]+@)?(?:localhost|\[[0-9a-f:]+\]|(?:[\p{L}\p{N}](?:[\p{L}\p{N}-]*[\p{L}\p{N}])?\.)+[\p{L}\p{N}-]{2,}|\d{1,3}(?:\.\d{1,3}){3})(?::\d{1,5})?(?:[/?#]\S*)?$/iu;
const HERE = /^(?:localhost|127\.|\[::1\]|10\.|192\.168\.)/;

/** Longer texts are no addresses, in characters. */
const LONGEST = 2000;
export const looksLikeAddress = (text: string): boolean => text.length <= LONGEST && ADDRESS.test(bare(text));

/** A text without what stands around an address where it was copied from. */
function bare(text: string): string {
  const link = /^\[[^\]]*\]\(([^)]+)\)$/.exec(text.trim());
  let inner = unquoted((link?.[1] ?? text).trim());
  inner = /^<([^>]*)>$/.exec(inner)?.[1]?.trim() ?? inner;
  return unquoted(withoutEnd(inner, ',;.'));
}

export interface RepairedAddress {
  way: AddressConnection;
  name: string;
}

/** Returns an address without its secrets, or null if there is none. @param repair receives each correction */
export function repairAddress(text: string, repair: (sentence: string) => void): RepairedAddress | null {
  if (text.length > LONGEST) return null;
  const inner = bare(text);
  if (!ADDRESS.test(inner)) return null;
  if (inner !== text.trim()) repair('Text around the address was removed.');
  const [, scheme = '', rest = inner] = /^([a-z]*)\s*:?\s*[/\\]{1,3}\s*(.*)$/is.exec(inner) ?? [];
  const isHere = HERE.test(rest.replace(/^[^@/]*@/, ''));
  const wanted = scheme === '' ? (isHere ? 'http' : 'https') : /s$/i.test(scheme) ? 'https' : 'http';
  const whole = `${wanted}://${rest}`;
  if (scheme === '') repair(`The scheme ${wanted}:// was missing and has been added.`);
  else if (whole !== inner) repair(`The scheme was corrected to ${wanted}://.`);
  if (!URL.canParse(whole)) return null;
  const url = new URL(whole);
  const headers: OutgoingValue[] = [];
  if (url.username || url.password) {
    const pair = `${decodeURIComponent(url.username)}:${decodeURIComponent(url.password)}`;
    headers.push(outgoingValue('Authorization', `Basic ${base64(pair)}`, { secret: true, why: 'contains a password' }));
    repair('The user name and password in the address are stored encrypted and sent as a header.');
    url.username = '';
    url.password = '';
  }
  const query = [...url.searchParams].map(([name, value]) => {
    const why = isSecretParameter(name) ? 'has a name that suggests a secret' : secretFormat(value);
    const isMissing = why !== null && isPlace(value);
    return outgoingValue(name, isMissing ? '' : value, {
      secret: why !== null,
      missing: isMissing,
      ...(why && { why }),
    });
  });
  for (const { name, secret } of query) {
    if (!secret) continue;
    url.searchParams.delete(name);
    repair(`The key in the address (${name}) is stored encrypted and sent with each request.`);
  }
  const path = takeFromPath(url, repair);
  url.hash = '';
  // The last part of an older server's address says how it speaks; trying tells for sure.
  return {
    way: {
      via: 'address',
      url: url.href.replaceAll(/%7B([a-z_0-9]+)%7D/gi, '{$1}'),
      transport: null,
      headers,
      query,
      path,
    },
    name: nameOf(url),
  };
}

/** Removes secrets from the path of an address: `;token=…`, and random parts. `{name}` replaces them. */
function takeFromPath(url: URL, repair: (sentence: string) => void): OutgoingValue[] {
  const taken: OutgoingValue[] = [];
  const take = (name: string, value: string, why: string): string => {
    const used = taken.some((one) => one.name === name);
    const own = used ? `${name}_${taken.length + 1}` : name;
    taken.push(outgoingValue(own, decodeURIComponent(value), { secret: true, why }));
    repair(`The key in the path of the address (${own}) is stored encrypted and sent with each request.`);
    return `{${own}}`;
  };
  const parts = url.pathname.split('/').map((part) => {
    const [first = '', ...parameters] = part.split(';');
    const why = first.length >= 32 ? secretFormat(first) : null;
    const whole = why ? take('path_key', first, why) : first;
    const rest = parameters.map((one) => {
      const [name = '', ...value] = one.split('=');
      const text = value.join('=');
      if (text === '' || !(isSecretParameter(name) || secretFormat(text))) return one;
      return `${name}=${take(name.toLowerCase().replaceAll(/[^a-z0-9_]/g, '_') || 'key', text, 'has a name that suggests a secret')}`;
    });
    return [whole, ...rest].join(';');
  });
  if (taken.length > 0) url.pathname = parts.join('/');
  return taken;
}

export const base64 = (text: string): string => {
  const bytes = new TextEncoder().encode(text);
  return btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''));
};

/** Parts of an address that say nothing of whose it is. */
const COMMON = /^(?:www|api|mcp|sse|server|app|v\d+|localhost|com|org|net|io|dev|example|test|local|co)$/i;

/** A name out of an address: the part of its host, or else of its path, that says whose it is. */
function nameOf(url: URL): string {
  const isNumber = /^[\d.:[\]]+$/.test(url.hostname);
  const host = isNumber ? [] : url.hostname.split('.').filter((part) => !COMMON.test(part));
  const path = url.pathname.split('/').filter((part) => part !== '' && !COMMON.test(part));
  return nameFrom(host.at(-1) ?? path.at(-1) ?? '') || 'server';
}
