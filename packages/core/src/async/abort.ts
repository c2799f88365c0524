/** A controller that aborts with another signal until it is released. */
export interface LinkedAbort {
  readonly signal: AbortSignal;
  abort(reason: unknown): void;
  /** Goes by another signal from now on. */
  follow(other: AbortSignal): void;
  /** Releases the other signal; call it once the work is over. */
  release(): void;
}

/**
 * Links a new abort signal to another one, like `AbortSignal.any` for work with a clear end. `AbortSignal.any` keeps
 * weak references, whose collection costs more than the runs themselves at a thousand runs per second.
 * @param outer signal that also aborts the inner one
 * @returns the inner signal, with functions to abort it and to release the outer one
 */
export function linkAbort(outer: AbortSignal): LinkedAbort {
  const controller = new AbortController();
  const pass = (reason: unknown) => controller.abort(reason);
  let waiters: Waiters | null = null;
  const release = () => {
    waiters?.delete(pass);
    waiters = null;
  };
  const follow = (other: AbortSignal) => {
    release();
    if (other.aborted) pass(other.reason);
    else waiters = waitersOf(other).add(pass);
  };
  follow(outer);
  return {
    signal: controller.signal,
    abort: (reason) => controller.abort(reason),
    follow,
    release,
  };
}

/** Another's signal as it is, for work that has nothing of its own to stop. */
export function noAbort(outer: AbortSignal): LinkedAbort {
  return { signal: outer, abort: () => {}, follow: () => {}, release: () => {} };
}

/** Who waits for each signal. One listener serves them all: a signal looks through its listeners for each new one. */
const waiting = new WeakMap<AbortSignal, Waiters>();
type Waiters = Set<(reason: unknown) => void>;

function waitersOf(signal: AbortSignal): Waiters {
  const known = waiting.get(signal);
  if (known) return known;
  const waiters: Waiters = new Set();
  waiting.set(signal, waiters);
  signal.addEventListener(
    'abort',
    () => {
      for (const reject of waiters) reject(signal.reason);
    },
    { once: true },
  );
  return waiters;
}

/**
 * Waits for work or for an abort signal, whichever comes first.
 * @param work to wait for
 * @param signal that ends the waiting; the work itself goes on
 * @returns what the work returns
 */
export function orAborted<T>(work: Promise<T>, signal: AbortSignal): Promise<T> {
  if (signal.aborted) {
    // Nobody waits for it any more; its failure must not count as one that nobody handles.
    work.catch(() => {});
    return Promise.reject(signal.reason);
  }
  const waiters = waitersOf(signal);
  return new Promise<T>((resolve, reject) => {
    waiters.add(reject);
    work.then(
      (value) => {
        waiters.delete(reject);
        resolve(value);
      },
      (error) => {
        waiters.delete(reject);
        reject(error);
      },
    );
  });
}
