import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { type ErrorRecord, type Json, PindroError, type ScriptPort, type ScriptRequest } from '@pindro/core';
import { FairQueue } from '../platform/fair-queue.js';

/** An idle thread ends after this many milliseconds. */
const IDLE = 30_000;
/** The thread measures the script; a clock behind it is more patient by this factor. */
const SLOWEST = 20;
/** A script ends itself when its time is over; a thread that does not answer so long after that is ended. */
const GRACE = 3000;

/** Maximum number of queued scripts. */
const MOST_WAITING = 1000;

type Answer = { done: { value: Json; log: string[] } } | { failed: ErrorRecord };

/** Threads in which scripts run, so that a loop without end holds up nothing but itself. */
export class ScriptPool implements ScriptPort {
  readonly #idle: Worker[] = [];
  readonly #all = new Set<Worker>();
  readonly #waiting = new FairQueue();
  readonly #most = Math.max(1, Math.min(4, availableParallelism() - 1));
  #timer: NodeJS.Timeout | null = null;

  async run(
    script: ScriptRequest,
    { signal, caller }: { signal: AbortSignal; caller: string },
  ): Promise<{ value: Json; log: string[] }> {
    const worker = await this.#take(caller, signal);
    let answered = false;
    try {
      const answer = await this.#ask(worker, script, signal);
      answered = true;
      if ('failed' in answer) throw PindroError.from(answer.failed);
      return answer.done;
    } finally {
      if (answered) this.#giveBack(worker);
      else this.#end(worker);
    }
  }

  close(): void {
    for (const worker of this.#all) this.#end(worker);
  }

  #ask(worker: Worker, script: ScriptRequest, signal: AbortSignal): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const late = setTimeout(
        () => reject(new PindroError('script_limit', { why: `it ran longer than ${script.time} ms` })),
        script.time * SLOWEST + GRACE,
      );
      const abort = () => reject(signal.reason);
      signal.addEventListener('abort', abort, { once: true });
      const clear = () => {
        clearTimeout(late);
        signal.removeEventListener('abort', abort);
        worker.removeAllListeners('message');
        worker.removeAllListeners('error');
      };
      worker.once('message', (answer: Answer) => {
        clear();
        resolve(answer);
      });
      worker.once('error', (error) => {
        clear();
        reject(new PindroError('script_limit', { why: `its thread exited: ${error.message}` }));
      });
      worker.postMessage(script);
    });
  }

  /** A thread in the caller's turn. Cancelled work never runs. */
  async #take(caller: string, signal: AbortSignal): Promise<Worker> {
    for (;;) {
      if (signal.aborted) throw signal.reason;
      const free = this.#idle.pop();
      if (free) return free;
      if (this.#all.size < this.#most) return this.#start();
      if (this.#waiting.length >= MOST_WAITING)
        throw new PindroError('script_limit', { why: `${MOST_WAITING} others are queued` });
      await this.#waiting.turn(caller, signal);
    }
  }

  #start(): Worker {
    // What the virtual machine itself prints when it is taken down says nothing to anybody.
    const worker = new Worker(new URL('./worker.js', import.meta.url), { stderr: true, env: {} });
    worker.unref();
    this.#all.add(worker);
    return worker;
  }

  #giveBack(worker: Worker): void {
    this.#idle.push(worker);
    this.#waiting.next();
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      for (const idle of this.#idle.splice(0)) this.#end(idle);
    }, IDLE).unref();
  }

  #end(worker: Worker): void {
    this.#all.delete(worker);
    void worker.terminate();
    this.#waiting.next();
  }
}
