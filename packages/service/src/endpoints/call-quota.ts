import { PindroError } from '@pindro/core';
import { MemoryStore, type Options } from 'express-rate-limit';
import type { Access } from '../keys/store.js';

const MINUTE = 60_000;

/** Counts the calls of rate-limited keys. */
export class CallQuota {
  readonly #calls = new MemoryStore();

  constructor() {
    this.#calls.init({ windowMs: MINUTE } as Options);
  }

  /** @throws key_busy */
  async spend({ id, name, perMinute }: Access): Promise<void> {
    if (perMinute === null) return;
    const { totalHits, resetTime } = await this.#calls.increment(id);
    if (totalHits <= perMinute) return;
    const seconds = Math.max(1, Math.ceil((resetTime!.getTime() - Date.now()) / 1000));
    throw new PindroError('key_busy', { name, limit: perMinute, seconds }, { details: { seconds } });
  }
}
