import { type ErrorRecord, PindroError } from '@pindro/core';
import type { ServerConnection } from '../connection/connection.js';
import { ServerLog } from '../connection/log.js';

interface Attached {
  connection: ServerConnection;
  trouble: ErrorRecord | null;
  /** Time and delay of the next automatic retry. */
  retry: NodeJS.Timeout | null;
  wait: number;
  /** How often in a row it could not be reached, and until when it is left alone therefore, by the monotonic clock. */
  failures: number;
  until: number;
}

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 15_000;
/** Number of failures in a row after which calls are rejected until the server recovers. */
const OPENS_AFTER = 5;
/** How long a call waits for a program that is about to restart, in milliseconds. */
const PATIENCE = 5000;

interface Options {
  connect(name: string): ServerConnection;
  /** Whether it is a program, which is started only when somebody needs it. */
  isProgram(name: string): boolean;
  /** Refreshes it. */
  refresh(name: string): Promise<unknown>;
  changed(name: string): void;
}

/** Availability of servers: open connections, last errors, and retry times. */
export class Touch {
  readonly #attached = new Map<string, Attached>();
  readonly #logs = new Map<string, ServerLog>();
  /** When each last answered, in milliseconds since the epoch. */
  readonly #answered = new Map<string, number>();
  #closed = false;

  constructor(private readonly options: Options) {}

  log(name: string): ServerLog {
    let log = this.#logs.get(name);
    if (!log) this.#logs.set(name, (log = new ServerLog()));
    return log;
  }

  trouble(name: string): ErrorRecord | null {
    return this.#attached.get(name)?.trouble ?? null;
  }

  /** When it last answered since the start, in milliseconds since the epoch. */
  answered(name: string): number | undefined {
    return this.#answered.get(name);
  }

  allAnswered(): ReadonlyMap<string, number> {
    return this.#answered;
  }

  isOpen(name: string): boolean {
    return this.#attached.get(name)?.connection.isOpen() ?? false;
  }

  /** Time of the next retry, in milliseconds since the epoch; null if it is available. */
  leftAloneUntil(name: string): number | null {
    const attached = this.#attached.get(name);
    const left = attached && attached.failures >= OPENS_AFTER ? attached.until - performance.now() : 0;
    return left > 0 ? Date.now() + Math.round(left) : null;
  }

  /** Whether this is the present connection of a server. */
  holds(name: string, connection: ServerConnection): boolean {
    return this.#attached.get(name)?.connection === connection;
  }

  connection(name: string): ServerConnection {
    return this.#of(name).connection;
  }

  #of(name: string): Attached {
    let attached = this.#attached.get(name);
    if (!attached) {
      const connection = this.options.connect(name);
      attached = { connection, trouble: null, retry: null, wait: FIRST_WAIT, failures: 0, until: 0 };
      this.#attached.set(name, attached);
    }
    return attached;
  }

  /** Waits a little for a program that ended. @throws server_left_alone while it failed too often in a row */
  async ready(name: string, signal: AbortSignal): Promise<void> {
    const attached = this.#attached.get(name);
    const left = attached ? attached.until - performance.now() : 0;
    if (!attached || left <= 0) return;
    if (this.options.isProgram(name) && left <= PATIENCE) return pause(left, signal);
    if (attached.failures < OPENS_AFTER) return;
    throw new PindroError(
      'server_left_alone',
      {
        ...{ server: name, times: attached.failures, seconds: Math.ceil(left / 1000) },
        why: attached.trouble?.message ?? '',
      },
      { details: { server: name } },
    );
  }

  well(name: string): void {
    const isFirst = !this.#answered.has(name);
    this.#answered.set(name, Date.now());
    const attached = this.#of(name);
    if (attached.retry) clearTimeout(attached.retry);
    const wasTroubled = attached.trouble !== null;
    if (wasTroubled) this.log(name).add('pindro', 'it responds again');
    Object.assign(attached, { trouble: null, retry: null, wait: FIRST_WAIT, failures: 0, until: 0 });
    if (wasTroubled || isFirst) this.options.changed(name);
  }

  /** Records a failure and schedules retries with backoff; a program restarts on demand. */
  troubled<E extends PindroError>(name: string, error: E): E {
    const attached = this.#attached.get(name);
    if (!attached || this.#closed || error.code === 'server_left_alone') return error;
    const fresh = attached.trouble?.code !== error.code;
    attached.trouble = error.toRecord();
    attached.failures++;
    if (attached.failures === OPENS_AFTER)
      this.log(name).add(
        'pindro',
        `it failed ${OPENS_AFTER} times in a row; calls are rejected until it recovers`,
        'warning',
      );
    if (!attached.retry) {
      // Jitter: servers that fail together are not retried together.
      const wait = attached.wait * (1 + Math.random() / 4);
      attached.until = performance.now() + wait;
      if (!this.options.isProgram(name))
        attached.retry = setTimeout(() => {
          attached.retry = null;
          void this.options.refresh(name).catch(() => {});
        }, wait).unref();
      attached.wait = Math.min(attached.wait * 2, LONGEST_WAIT);
    }
    if (fresh) this.options.changed(name);
    return error;
  }

  /** The next call reconnects; active calls continue. */
  hangUp(name: string): void {
    this.#attached.get(name)?.connection.retire();
  }

  /** It was moved or removed: active calls finish, and no new ones start. */
  letGo(name: string): void {
    this.#answered.delete(name);
    const attached = this.#attached.get(name);
    this.#attached.delete(name);
    if (attached?.retry) clearTimeout(attached.retry);
    attached?.connection.retire();
  }

  /** It just answered, though nothing is open to it yet. */
  seen(name: string): void {
    this.#answered.set(name, Date.now());
  }

  async close(): Promise<void> {
    this.#closed = true;
    for (const { retry } of this.#attached.values()) if (retry) clearTimeout(retry);
    await Promise.all([...this.#attached.values()].map(({ connection }) => connection.close()));
  }
}

function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const stop = () => {
      clearTimeout(timer);
      reject(signal.reason);
    };
    const timer = setTimeout(() => {
      signal.removeEventListener('abort', stop);
      resolve();
    }, milliseconds);
    signal.addEventListener('abort', stop, { once: true });
  });
}
