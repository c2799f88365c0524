import { PindroError } from '@pindro/core';
import type { Access } from '../keys/store.js';

const MINUTE = 60_000;

/** Counts the calls of keys that may make only so many a minute. */
export class CallQuota {
  readonly #counts = new Map<string, { from: number; calls: number }>();

  /** @throws key_busy */
  spend({ id, name, perMinute }: Access): void {
    if (perMinute === null) return;
    const now = Date.now();
    const count = this.#counts.get(id);
    if (!count || now - count.from >= MINUTE) return void this.#counts.set(id, { from: now, calls: 1 });
    if (count.calls >= perMinute) {
      const seconds = Math.ceil((count.from + MINUTE - now) / 1000);
      throw new PindroError('key_busy', { name, limit: perMinute, seconds });
    }
    count.calls++;
  }
}
