import { type OutgoingValue, outgoingValue } from './recognized-server.js';

/** Words that name a secret, as a part of a name: `LIFT_API_KEY`, `--token`, `X-Session-Id`, `apiToken`. */
const SECRET_WORDS = new Set([
  ...['key', 'keys', 'apikey', 'token', 'tokens', 'secret', 'secrets', 'password', 'passwd', 'pass', 'pwd', 'pw'],
  ...['passphrase', 'passcode', 'auth', 'authorization', 'bearer', 'credential', 'credentials', 'pat', 'dsn', 'jwt'],
  ...['cookie', 'session', 'sessionid', 'sid', 'signature', 'sig', 'hmac', 'sas', 'pin', 'otp', 'salt'],
]);
/** Endings of names that are written as one word: `PGPASSWORD`, `accesstoken`, `clientsecret`. */
const SECRET_ENDING = /(?:password|passwd|passphrase|token|secret|apikey|accesskey|privatekey|credentials?|cookie)$/;
/** Last words of names that only speak of a secret: `KEY_FILE`, `TOKEN_LIMIT`, `AUTH_TYPE`. */
const ABOUT_SECRETS = new Set([
  ...['file', 'path', 'dir', 'id', 'url', 'uri', 'type', 'limit', 'count', 'name', 'mode', 'method', 'timeout', 'ttl'],
  ...[
    'expiry',
    'expires',
    'days',
    'length',
    'size',
    'domain',
    'header',
    'enabled',
    'issuer',
    'endpoint',
    'host',
    'port',
  ],
  ...['region', 'user', 'username', 'version', 'algorithm', 'scheme', 'prefix', 'provider', 'policy', 'server'],
]);
/** Names of which an ID is as good as a password. */
const ID_IS_SECRET = new Set(['session', 'sid', 'token', 'cookie']);
/** Words before which a key is none: `PUBLIC_KEY`, `MAX_TOKENS`, `PRIMARY_KEY`. */
const NOT_SECRET =
  /(?:^|[ ])(?:public|max|min|primary|foreign|sort|partition|num|number of) (?:key|keys|token|tokens)(?: |$)/;
/** Parameters of addresses that are too short to be words. */
const SHORT_PARAMETERS = new Set(['k', 'sk', 'sig', 'pw', 'sid', 's_key']);

/** Words that stand for a value which somebody has to fill in. */
const PLACE =
  /^(?:<[^>]*>|\[[^\]]*\]|\{\{?[^}]*\}?\}|\$\{[^}]*\}|%[A-Za-z_]\w*%|\$[A-Za-z_]\w*|x{3,}|\*{3,}|\.{3}|…|your[-_ ].*|.*[-_ ]here|insert[-_ ].*|replace[-_ ].*|change[-_ ]?me)$/i;

/** The words of a name: at separators, and where a small letter is followed by a large one. */
const wordsOf = (name: string): string[] =>
  name
    .replaceAll(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replaceAll(/([A-Z])([A-Z][a-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);

export function isSecretName(name: string): boolean {
  const words = wordsOf(name);
  const last = words.at(-1) ?? '';
  if (NOT_SECRET.test(words.join(' '))) return false;
  if (words.length > 1 && ABOUT_SECRETS.has(last))
    return last === 'id' && words.slice(0, -1).some((word) => ID_IS_SECRET.has(word));
  return words.some((word) => SECRET_WORDS.has(word) || SECRET_ENDING.test(word));
}
export const isSecretParameter = (name: string): boolean =>
  SHORT_PARAMETERS.has(name.toLowerCase()) || isSecretName(name);
export const isPlace = (value: string): boolean => value.trim() === '' || PLACE.test(value.trim());

/** Maximum length of a value that is checked for secrets, in characters. */
const LOOKED_AT = 4096;
const FORMATS: readonly [pattern: RegExp, why: string][] = [
  [/^[a-z][a-z0-9+.-]{0,30}:\/\/[^/\s:@]{0,256}:[^/\s@]{1,512}@/i, 'contains a password'],
  [/-----BEGIN [A-Z ]{0,40}PRIVATE KEY-----/, 'contains a private key'],
  [/^eyJ[\w-]{10,}\.[\w-]{10,}\.[\w-]*$/, 'is a signed token'],
  [/^(?:bearer|basic|token)\s+\S{6,}$/i, 'is an authorization'],
  [
    /(?:^|[;&?\s])(?:password|pwd|passwd|secret|token|accountkey|sharedaccesskey|apikey|api_key)\s{0,4}=\s{0,4}[^\s;&]{3,}/i,
    'contains a password',
  ],
];

/** Shannon entropy of a text in bits per character. */
function entropy(text: string): number {
  const counts = new Map<string, number>();
  for (const letter of text) counts.set(letter, (counts.get(letter) ?? 0) + 1);
  let bits = 0;
  for (const count of counts.values()) bits -= (count / text.length) * Math.log2(count / text.length);
  return bits;
}

/** Whether a text reads like the output of a random generator: long, of one alphabet, and without words. */
function isRandom(text: string): boolean {
  if (/^[0-9a-f]{32,}$/i.test(text)) return entropy(text.toLowerCase()) > 2.5;
  if (/^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$/i.test(text)) return false;
  if (!/^[\w+/=.~-]{20,}$/.test(text)) return false;
  const kinds = [/[a-z]/, /[A-Z]/, /\d/].filter((kind) => kind.test(text)).length;
  // Names of packages and files are long too, but made of words.
  const longestWord = Math.max(...text.split(/[^A-Za-z]+/).map((word) => word.length));
  const isBroken = longestWord < text.length / 2 || kinds === 3;
  const hasPath = /[/.]/.test(text) && text.split(/[/.]/).every((part) => part.length < 20);
  return kinds >= 2 && isBroken && !hasPath && entropy(text) > (text.length >= 32 ? 3.5 : 3.8) && /\d/.test(text);
}

/**
 * Explains why a value has the format of a secret, whatever its name; null if it has not.
 * @param value to judge
 * @returns the reason as a clause
 */
export function secretFormat(value: string): string | null {
  const text = value.trim();
  if (text.length < 6 || text.length > LOOKED_AT) return null;
  const format = FORMATS.find(([pattern]) => pattern.test(text));
  if (format) return format[1];
  return isRandom(text) ? 'looks like a random key' : null;
}

/**
 * Explains why a named value is a secret, by its name, format or randomness; null if it is none.
 * @param name of the header, variable or argument
 * @param value it has
 * @returns the reason as a clause
 */
export function secretReason(name: string, value: string): string | null {
  if (name !== '' && isSecretName(name)) return 'has a name that suggests a secret';
  return secretFormat(value);
}

/** A named value: a secret by name or format, and missing if it is a placeholder. */
export function namedValue(name: string, value: string): OutgoingValue {
  const isMissing = isPlace(value);
  const why = secretReason(name, isMissing ? '' : value);
  return outgoingValue(name, isMissing ? '' : value, {
    secret: why !== null,
    missing: isMissing,
    ...(why !== null && { why }),
  });
}
