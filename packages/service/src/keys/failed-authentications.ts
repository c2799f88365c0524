import type { IncomingMessage } from 'node:http';
import { PindroError } from '@pindro/core';
import { LRUCache } from 'lru-cache';
import type { RequestOrigin } from '../platform/origin.js';

/** Detailed errors per address and minute; further failed authentications must wait. */
const A_MINUTE = 20;
const MINUTE = 60_000;
/** Maximum number of tracked addresses. */
const MOST = 10_000;

/** Counts failed authentications by address, to slow down guessing. */
export class FailedAuthentications {
  readonly #times = new LRUCache<string, { count: number }>({ max: MOST, ttl: MINUTE });

  constructor(private readonly origin: RequestOrigin) {}

  /** Presents a key, and counts where it is a wrong one. A right one is let in whatever others do from there. */
  watch<T>(request: IncomingMessage, present: () => T): T {
    try {
      return present();
    } catch (error) {
      if (error instanceof PindroError && error.code === 'key_unknown') this.count(request);
      throw error;
    }
  }

  /** Counts one. @throws too_many_requests */
  count(request: IncomingMessage): void {
    const address = this.origin.addressOf(request);
    const before = this.#times.get(address);
    if (!before) return void this.#times.set(address, { count: 1 });
    before.count++;
    if (before.count > A_MINUTE) throw new PindroError('too_many_requests');
  }
}
