import { type CredentialForm, schemesOf } from '@pindro/core';

interface Odd {
  fits(secret: string, form: CredentialForm): boolean;
  /** What is odd, without a character of it. */
  says(secret: string): string;
  /** What is left without it; null where nobody can know. */
  clean: ((secret: string) => string) | null;
}

/** Kinds in front of whose secret Pindro puts the scheme, or whose place takes a bare key. */
const BARE: ReadonlySet<string> = new Set(['bearer', 'basic', 'query', 'path']);

/** What people paste along with a secret. */
const ODDITIES: readonly Odd[] = [
  {
    fits: (secret) => /^\s|\s$/.test(secret),
    says: () => 'it has spaces or line breaks around it',
    clean: (secret) => secret.trim(),
  },
  {
    fits: (secret) => /^(["'`]).*\1$/s.test(secret),
    says: () => 'it is in quotation marks',
    clean: (secret) => secret.slice(1, -1),
  },
  {
    fits: (secret) => /^[\w-]+:\s+\S/.test(secret),
    says: () => 'it starts with the name of a header, which is added automatically',
    clean: (secret) => secret.replace(/^[\w-]+:\s+/, ''),
  },
  {
    fits: (secret, { kind }) => BARE.has(kind) && schemesOf(secret).length > 0,
    says: (secret) => `it starts with the scheme "${schemesOf(secret)[0]}", which is added automatically`,
    clean: withoutSchemes,
  },
  {
    // The value of a header is sent as it is, so that one scheme belongs there.
    fits: (secret, { kind }) => kind === 'header' && repeatedScheme(secret) !== null,
    says: (secret) => `it repeats the scheme "${repeatedScheme(secret)}"`,
    clean: (secret) => secret.replace(/^\S+\s+/, ''),
  },
  {
    fits: (secret) => /^\$\{.*\}$|^<.*>$|^your[-_ ]/i.test(secret),
    says: () => 'it is a placeholder, not a key',
    clean: null,
  },
];

/** What is odd about a secret, without a character of it; null where nothing is. */
export function oddity(
  secret: string,
  form: CredentialForm,
): { says: string; clean: ((secret: string) => string) | null } | null {
  const odd = ODDITIES.find(({ fits }) => fits(secret, form));
  return odd ? { says: odd.says(secret), clean: odd.clean } : null;
}

/** Returns a secret without what is not part of it in this form. */
export function cleaned(secret: string, form: CredentialForm): string {
  let left = secret;
  for (let odd = oddity(left, form); odd?.clean; odd = oddity(left, form)) left = odd.clean(left);
  return left;
}

/** Returns the authentication scheme that a value begins with more than once; null where there is none. */
export function repeatedScheme(value: string): string | null {
  const [first, second] = schemesOf(value);
  return first !== undefined && first.toLowerCase() === second?.toLowerCase() ? first : null;
}

/** Removes the authentication schemes in front of a key. */
export function withoutSchemes(secret: string): string {
  let left = secret;
  while (schemesOf(left).length > 0) left = left.replace(/^\S+\s+/, '');
  return left;
}
