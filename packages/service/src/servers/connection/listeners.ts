import { setImmediate } from 'node:timers/promises';
import type { ToolMessage } from '@pindro/core';

/** So much of what a server says while it works is passed on, in characters. */
const LONGEST_SAID = 2000;

interface Listener {
  onSaid?: ((said: ToolMessage) => void) | undefined;
  onWrote?: ((line: string) => void) | undefined;
}

/**
 * Listeners for log messages of a server or program. Messages do not identify their call: with several active calls,
 * none receives them.
 */
export class CallListeners {
  readonly #all = new Set<Listener>();

  /** @param isProgram what it wrote before it answered may come through the other pipe in the same turn of the event loop */
  async during<T>(listener: Listener, isProgram: boolean, work: () => Promise<T>): Promise<T> {
    // Each call is one listener of its own.
    const own = { ...listener };
    this.#all.add(own);
    try {
      return await work();
    } finally {
      if (isProgram) await setImmediate();
      this.#all.delete(own);
    }
  }

  said(level: string, text: string): void {
    this.#only?.onSaid?.({ level, text: text.slice(0, LONGEST_SAID) });
  }

  wrote(line: string): void {
    this.#only?.onWrote?.(line.slice(0, LONGEST_SAID));
  }

  get #only(): Listener | null {
    const [one = null] = this.#all.size === 1 ? this.#all : [];
    return one;
  }
}
