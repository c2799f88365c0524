import { createHmac, timingSafeEqual } from 'node:crypto';
import { PindroError } from '@pindro/core';

/** A signed request is good for this long, in seconds; it keeps what was overheard from being sent again. */
const TOLERANCE = 300;

type Headers = Record<string, string | string[] | undefined>;

/** The signature of a body after the open Standard Webhooks specification: HMAC-SHA256 over id, time and body. */
export function signature(secret: string, id: string, timestamp: string, body: string): string {
  return `v1,${createHmac('sha256', secret).update(`${id}.${timestamp}.${body}`).digest('base64')}`;
}

/** @throws signature_refused */
export function requireSignature(secret: string, headers: Headers, body: string, now: number): void {
  const [id, timestamp, given] = ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map((name) => headers[name]);
  const refused = (why: string) => new PindroError('signature_refused', { why });
  if (typeof id !== 'string' || typeof timestamp !== 'string' || typeof given !== 'string')
    throw refused('the headers webhook-id, webhook-timestamp and webhook-signature are needed');
  if (id.length === 0 || id.length > 256) throw refused('webhook-id must have 1 to 256 characters');
  const age = Math.abs(now / 1000 - Number(timestamp));
  if (!(age <= TOLERANCE)) throw refused(`webhook-timestamp is more than ${TOLERANCE / 60} minutes off`);
  const wanted = Buffer.from(signature(secret, id, timestamp, body));
  const fits = given.split(' ').some((one) => {
    const got = Buffer.from(one);
    return got.length === wanted.length && timingSafeEqual(got, wanted);
  });
  if (!fits) throw refused('it was not made with the secret of this hook over this body');
}
