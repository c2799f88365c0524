import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { PindroError } from '@pindro/core';

/** Validity of a signed request, in seconds; prevents replay. */
const TOLERANCE = 300;

type Headers = Record<string, string | string[] | undefined>;

/** Starts a secret whose rest is the key in Base64, as the Standard Webhooks specification says. */
const PREFIX = 'whsec_';
const FEWEST_BYTES = 24;
const MOST_BYTES = 64;

/** Returns a new secret: 32 random bytes. */
export const newHookSecret = (): string => PREFIX + randomBytes(32).toString('base64');

/** Refuses a secret that says to be Base64 and is none, or is too short or long. @throws request_invalid */
export function requireHookSecret(secret: string): void {
  if (!secret.startsWith(PREFIX)) return;
  const text = secret.slice(PREFIX.length);
  const { length } = Buffer.from(text, 'base64');
  if (/^[A-Za-z0-9+/]+={0,2}$/.test(text) && length >= FEWEST_BYTES && length <= MOST_BYTES) return;
  throw new PindroError('request_invalid', {
    why: `After "${PREFIX}" a secret has ${FEWEST_BYTES} to ${MOST_BYTES} bytes in Base64`,
  });
}

/** Returns the key of a secret. One without the prefix, as older ones are, is the key itself. */
const keyOf = (secret: string): Buffer | string =>
  secret.startsWith(PREFIX) ? Buffer.from(secret.slice(PREFIX.length), 'base64') : secret;

/** Returns the signature of a body (Standard Webhooks): HMAC-SHA256 over id, time and body. */
export function signature(secret: string, id: string, timestamp: string, body: string): string {
  return `v1,${createHmac('sha256', keyOf(secret)).update(`${id}.${timestamp}.${body}`).digest('base64')}`;
}

/** @throws signature_refused */
export function requireSignature(secret: string, headers: Headers, body: string, now: number): void {
  const [id, timestamp, given] = ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map((name) => headers[name]);
  const refused = (why: string) => new PindroError('signature_refused', { why });
  if (typeof id !== 'string' || typeof timestamp !== 'string' || typeof given !== 'string')
    throw refused('the headers webhook-id, webhook-timestamp and webhook-signature are required');
  if (id.length === 0 || id.length > 256) throw refused('webhook-id must have 1 to 256 characters');
  const age = Math.abs(now / 1000 - Number(timestamp));
  if (!(age <= TOLERANCE)) throw refused(`webhook-timestamp is more than ${TOLERANCE / 60} minutes off`);
  const wanted = Buffer.from(signature(secret, id, timestamp, body));
  const fits = given.split(' ').some((one) => {
    const got = Buffer.from(one);
    return got.length === wanted.length && timingSafeEqual(got, wanted);
  });
  if (!fits) throw refused('it does not match the body and the secret of this webhook');
}
