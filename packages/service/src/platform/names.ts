import { NAME, NAME_RULE, PindroError } from '@pindro/core';

/** @throws request_invalid when a name is not fit to be one */
export function requireName(name: string, what: string): void {
  if (name.length <= 64 && NAME.test(name)) return;
  throw new PindroError(
    'request_invalid',
    { why: `The name of a ${what} ${NAME_RULE}, not "${name.slice(0, 80)}"`, fix: 'Choose another name.' },
    { at: '/name' },
  );
}

/** A web address without a user name or password in it. @throws request_invalid */
export function requireAddress(text: string): string {
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || (url.protocol !== 'http:' && url.protocol !== 'https:')) {
    throw new PindroError(
      'request_invalid',
      {
        why: `"${text.slice(0, 200)}" is not a valid address; it must start with http:// or https://`,
        fix: 'Use the full address, as in https://lift.example/mcp.',
      },
      { at: '/url' },
    );
  }
  if (url.username || url.password)
    throw new PindroError(
      'request_invalid',
      {
        why: 'The address contains a user name or password',
        fix: 'Store them in a credential of kind basic, and choose it.',
      },
      { at: '/url' },
    );
  return url.href;
}

/** Returns the origin of an address (RFC 6454); a program is its own origin. @throws request_invalid */
export const originOf = (text: string): string =>
  text.startsWith('program:') ? text : new URL(requireAddress(text)).origin;

/** A name like this one that nobody has yet. */
export function freeName(wanted: string, names: readonly string[]): string {
  const taken = new Set(names);
  if (!taken.has(wanted)) return wanted;
  for (let count = 2; ; count++) if (!taken.has(`${wanted}-${count}`)) return `${wanted}-${count}`;
}
