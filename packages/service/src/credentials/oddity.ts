interface Odd {
  fits: RegExp;
  /** What is odd, without a character of the secret. */
  says(secret: string): string;
  /** What is left without it; null where nobody can know. */
  clean: ((secret: string) => string) | null;
}

/** What people paste along with a secret. */
const ODDITIES: readonly Odd[] = [
  { fits: /^\s|\s$/, says: () => 'there are spaces or line breaks around it', clean: (secret) => secret.trim() },
  {
    fits: /^(["'`]).*\1$/s,
    says: () => 'it stands in quotation marks',
    clean: (secret) => secret.slice(1, -1),
  },
  {
    fits: /^(bearer|basic|token)\s+/i,
    says: (secret) => `it begins with the word "${secret.split(/\s/)[0]}", which is added by itself`,
    clean: (secret) => secret.replace(/^\S+\s+/, ''),
  },
  {
    fits: /^[\w-]+:\s+\S/,
    says: () => 'it begins with the name of a header, which is added by itself',
    clean: (secret) => secret.replace(/^[\w-]+:\s+/, ''),
  },
  { fits: /^\$\{.*\}$|^<.*>$|^your[-_ ]/i, says: () => 'it is a placeholder, not a key', clean: null },
];

/** What is odd about a secret, without a character of it; null where nothing is. */
export function oddity(secret: string): { says: string; clean: ((secret: string) => string) | null } | null {
  const odd = ODDITIES.find(({ fits }) => fits.test(secret));
  return odd ? { says: odd.says(secret), clean: odd.clean } : null;
}

/** A secret without all that does not belong to it. */
export function cleaned(secret: string): string {
  let left = secret;
  for (let odd = oddity(left); odd?.clean; odd = oddity(left)) left = odd.clean(left);
  return left;
}
