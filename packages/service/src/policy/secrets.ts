import { PindroError } from '@pindro/core';

let grant: (belongsTo: string) => SecretPermit;
/** The capability to decrypt one secret. Only this module makes one, and the vault requires one. */
export class SecretPermit {
  readonly #belongsTo: string;
  private constructor(belongsTo: string) {
    this.#belongsTo = belongsTo;
  }
  static {
    grant = (belongsTo) => new SecretPermit(belongsTo);
  }
  /** What the encrypted text is bound to. */
  get belongsTo(): string {
    return this.#belongsTo;
  }
}

const CREDENTIAL = 'credential:';
export const credentialBinding = (name: string): string => CREDENTIAL + name;

/** What the secret of a credential is decrypted for. */
export type SecretUse =
  /** It is sent to an address, which must be among its origins. */
  | { url: string }
  /** Somebody who may change where it goes tries it at an address; it is stored for that address only afterwards. */
  | { trial: string }
  /** It stays inside the store: to know what to redact, to bind it to another name, to look for odd characters. */
  | { inside: 'redact' | 'rebind' | 'inspect' };

/**
 * Permits decrypting a credential for one use.
 * @param origins where it may go; null while nobody has said so: the first use decides
 * @param originOf the origin of an address
 * @throws credential_elsewhere
 */
export function permitSecret(
  { name, origins }: { name: string; origins: readonly string[] | null },
  use: SecretUse,
  originOf: (url: string) => string,
): SecretPermit {
  const origin = 'url' in use ? originOf(use.url) : null;
  if (origin !== null && origins !== null && !origins.includes(origin))
    throw new PindroError(
      'credential_elsewhere',
      { name, origin, allowed: origins.join(' and ') },
      { details: { credential: name, origin } },
    );
  return grant(credentialBinding(name));
}

/** Permits decrypting what Pindro encrypts for itself: runs, memory, samples, hook secrets. Never a credential. */
export function permitOwnRecord(belongsTo: string): SecretPermit {
  if (belongsTo.startsWith(CREDENTIAL)) throw new TypeError('the secret of a credential is not an encrypted record');
  return grant(belongsTo);
}
