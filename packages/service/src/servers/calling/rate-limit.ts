import type { ServerLimits } from '@pindro/contract';
import PQueue from 'p-queue';

const MINUTE = 60_000;

/** How much is asked of each server at once and in a minute; what is too much waits for its turn. */
export class Pace {
  readonly #queues = new Map<string, { key: string; queue: PQueue }>();

  /** Runs work in its turn. Cancelled work leaves the queue. */
  run<T>(
    server: string,
    { at_once, per_minute }: ServerLimits,
    signal: AbortSignal,
    work: () => Promise<T>,
  ): Promise<T> {
    if (at_once === undefined && per_minute === undefined) return work();
    const key = JSON.stringify([at_once, per_minute]);
    let held = this.#queues.get(server);
    if (held?.key !== key) {
      const queue = new PQueue({
        ...(at_once !== undefined && { concurrency: at_once }),
        ...(per_minute !== undefined && { interval: MINUTE, intervalCap: per_minute }),
      });
      held = { key, queue };
      this.#queues.set(server, held);
    }
    return held.queue.add(work, { signal }) as Promise<T>;
  }

  /** How many wait for their turn. */
  waiting(server: string): number {
    return this.#queues.get(server)?.queue.size ?? 0;
  }
}
