import { type CheckResult, checkFlow, type Json, PindroError, type Surroundings } from '@pindro/core';
import { WorkThread } from '../platform/work-thread.js';

/** Documents longer than this are checked in a thread of their own, in characters: reading one takes a while. */
const LONG = 48 * 1024;

export interface CheckRequest {
  text: string;
  surroundings: Surroundings;
}

/** Checks documents without keeping everybody else waiting. */
export class FlowChecker {
  readonly #thread = new WorkThread<CheckRequest, CheckResult>(
    new URL('./check-worker.js', import.meta.url),
    (limit) => new PindroError('flow_too_large', { limit: `what can be checked in ${limit}` }),
  );

  async check(written: string | Json, surroundings: Surroundings): Promise<CheckResult> {
    if (typeof written !== 'string' || written.length < LONG) return checkFlow(written, surroundings);
    return this.#thread.ask({ text: written, surroundings });
  }

  close(): void {
    this.#thread.close();
  }
}
