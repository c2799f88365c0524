import { GIVE_AGAIN } from './sort.js';

/** Names of parameters that hold keys. */
const KEYS = /key|token|secret|sig(?:nature)?$|pass|auth|code|credential/i;
/** A part of a path that nobody chose: long, of letters and digits. */
const RANDOM = /^(?=.*\d)(?=.*[a-z])[\w-]{24,}$/i;

/** An address without the keys in it. */
export function withoutKeys(address: string): string {
  if (!URL.canParse(address)) return address;
  const url = new URL(address);
  for (const name of [...url.searchParams.keys()])
    if (KEYS.test(name) || RANDOM.test(url.searchParams.get(name) ?? '')) url.searchParams.set(name, GIVE_AGAIN);
  url.pathname = url.pathname
    .split('/')
    .map((part) => (RANDOM.test(part) ? GIVE_AGAIN : part))
    .join('/');
  return url.href === new URL(address).href ? address : url.href;
}

export const hasGap = (address: string): boolean => address.includes(GIVE_AGAIN);
