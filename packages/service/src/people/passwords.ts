import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';

/** Cost of scrypt (RFC 7914): about 64 MiB and a tenth of a second for each try. */
const COST = { N: 2 ** 16, r: 8, p: 1, maxmem: 128 * 1024 * 1024 };
const LENGTH = 32;

const derive = (password: string, salt: Buffer): Promise<Buffer> =>
  new Promise((resolve, reject) =>
    scrypt(password.normalize('NFKC'), salt, LENGTH, COST, (error, key) => (error ? reject(error) : resolve(key))),
  );

/** What is kept of a password: `salt:hash`, both in base64url. */
export async function sealPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `${salt.toString('base64url')}:${(await derive(password, salt)).toString('base64url')}`;
}

/** @param kept null if there is none; it takes equally long, so that names are not revealed */
export async function fitsPassword(password: string, kept: string | null): Promise<boolean> {
  const [salt = '', hash = ''] = (kept ?? `${'A'.repeat(22)}:${'A'.repeat(43)}`).split(':');
  const key = await derive(password, Buffer.from(salt, 'base64url'));
  const expected = Buffer.from(hash, 'base64url');
  return key.length === expected.length && timingSafeEqual(key, expected) && kept !== null;
}
