import { createCipheriv, createDecipheriv, createHmac, hkdfSync, randomBytes, timingSafeEqual } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PindroError } from '@pindro/core';
import type { SecretPermit } from '../policy/secrets.js';

const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/** The key from the setting, or from the file in the data directory, which is made with mode 0600 when it is missing. */
function readKey(data: string, setting: string | undefined): Buffer {
  if (setting !== undefined) return checked(setting, 'PINDRO_SECRET_KEY');
  const path = join(data, 'secret.key');
  if (!existsSync(path))
    writeFileSync(path, `${randomBytes(KEY_BYTES).toString('base64')}\n`, { mode: 0o600, flag: 'wx' });
  if ((statSync(path).mode & 0o077) !== 0) chmodSync(path, 0o600);
  return checked(readFileSync(path, 'utf8').trim(), path);
}

function checked(text: string, where: string): Buffer {
  const key = Buffer.from(text, 'base64');
  if (key.length === KEY_BYTES) return key;
  throw new PindroError('data_directory', {
    path: where,
    why: `it contains a key of ${key.length} bytes instead of ${KEY_BYTES}`,
    fix: `Use ${KEY_BYTES} random bytes in base64, for example from "openssl rand -base64 ${KEY_BYTES}".`,
  });
}

/** Encrypts secrets with AES-256-GCM (NIST SP 800-38D): nonce, tag and cipher text in base64, bound to their owner. */
export class Vault {
  readonly #key: Buffer;
  /** For signatures alone, derived from the other (RFC 5869). */
  readonly #signingKey: Buffer;

  constructor(data: string, setting?: string) {
    this.#key = readKey(data, setting);
    this.#signingKey = Buffer.from(hkdfSync('sha256', this.#key, '', 'pindro signature', KEY_BYTES));
  }

  /** An HMAC-SHA256 of a text in base64url, which nobody else can make. */
  sign(text: string): string {
    return createHmac('sha256', this.#signingKey).update(text).digest('base64url');
  }

  isSigned(text: string, signature: string): boolean {
    const [expected, given] = [Buffer.from(this.sign(text)), Buffer.from(signature)];
    return expected.length === given.length && timingSafeEqual(expected, given);
  }

  seal(text: string, belongsTo: string): string {
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv('aes-256-gcm', this.#key, nonce, { authTagLength: TAG_BYTES });
    cipher.setAAD(Buffer.from(belongsTo));
    const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
  }

  /** @throws if the key differs or the text belongs to something else */
  unseal(sealed: string, permit: SecretPermit): string {
    const bytes = Buffer.from(sealed, 'base64');
    const decipher = createDecipheriv('aes-256-gcm', this.#key, bytes.subarray(0, NONCE_BYTES), {
      authTagLength: TAG_BYTES,
    });
    decipher.setAAD(Buffer.from(permit.belongsTo));
    decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
    return Buffer.concat([decipher.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), decipher.final()]).toString('utf8');
  }
}
