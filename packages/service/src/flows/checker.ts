import { Worker } from 'node:worker_threads';
import { type CheckResult, checkFlow, type Json, PindroError, type Surroundings } from '@pindro/core';

/** Documents longer than this are checked in a thread of their own, in characters: reading one takes a while. */
const LONG = 48 * 1024;
/** A thread that nobody needs is let go after this many milliseconds. */
const IDLE = 20_000;

export interface CheckRequest {
  id: number;
  text: string;
  surroundings: Surroundings;
}

/** Checks documents without keeping everybody else waiting. */
export class FlowChecker {
  #worker: Worker | null = null;
  #idle: NodeJS.Timeout | null = null;
  #last = 0;
  readonly #open = new Map<number, { resolve(result: CheckResult): void; reject(error: unknown): void }>();

  async check(written: string | Json, surroundings: Surroundings): Promise<CheckResult> {
    if (typeof written !== 'string' || written.length < LONG) return checkFlow(written, surroundings);
    const worker = this.#start();
    const id = ++this.#last;
    try {
      return await new Promise<CheckResult>((resolve, reject) => {
        this.#open.set(id, { resolve, reject });
        worker.postMessage({ id, text: written, surroundings } satisfies CheckRequest);
      });
    } finally {
      this.#open.delete(id);
      this.#rest();
    }
  }

  close(): void {
    if (this.#idle) clearTimeout(this.#idle);
    void this.#worker?.terminate();
    this.#worker = null;
  }

  #start(): Worker {
    if (this.#idle) clearTimeout(this.#idle);
    this.#idle = null;
    if (this.#worker) return this.#worker;
    const worker = new Worker(new URL('./check-worker.js', import.meta.url), { env: {} });
    worker.unref();
    worker.on('message', ({ id, result }: { id: number; result: CheckResult }) => this.#open.get(id)?.resolve(result));
    worker.on('error', (error) => {
      this.#worker = null;
      for (const { reject } of this.#open.values())
        reject(new PindroError('step_failed', { why: `The document could not be checked: ${error.message}` }));
    });
    this.#worker = worker;
    return worker;
  }

  #rest(): void {
    if (this.#open.size > 0) return;
    this.#idle ??= setTimeout(() => this.close(), IDLE).unref();
  }
}
