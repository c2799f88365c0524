import { mayUse } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import type { Authority } from './authority.js';

let grant: (by: Authority) => KeyPermit;
/** The capability to issue and change access keys. Only {@link permitKeys} makes one, and the key store requires one. */
export class KeyPermit {
  readonly #by: Authority;
  private constructor(by: Authority) {
    this.#by = by;
  }
  static {
    grant = (by) => new KeyPermit(by);
  }
  get by(): Authority {
    return this.#by;
  }
  /** Whether it covers keys with the scope `manage`: such a key opens the API and is worth as much as an owner. */
  get manages(): boolean {
    return mayUse(this.#by.role, 'owner');
  }
}

/** Permits issuing and changing access keys. @throws role_too_low for less than a builder */
export function permitKeys({ name, role }: Authority): KeyPermit {
  if (!mayUse(role, 'builder')) throw new PindroError('role_too_low', { name, role, needed: 'builder' });
  return grant({ name, role });
}
