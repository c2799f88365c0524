import { orAborted, PindroError, type SteppingPort } from '@pindro/core';

/** Lets people go through a run step by step: each step waits here until somebody says so. */
export class Stepper implements SteppingPort {
  readonly #waiting = new Map<string, Map<string, (go: boolean) => void>>();

  before({ run, path }: { run: string; path: string }, { signal }: { signal: AbortSignal }): Promise<{ go: boolean }> {
    const steps = this.#waiting.get(run) ?? new Map<string, (go: boolean) => void>();
    this.#waiting.set(run, steps);
    const said = new Promise<{ go: boolean }>((resolve) => steps.set(path, (go) => resolve({ go })));
    return orAborted(said, signal).finally(() => {
      steps.delete(path);
      if (steps.size === 0) this.#waiting.delete(run);
    });
  }

  /** The steps of a run that wait. */
  waiting(run: string): string[] {
    return [...(this.#waiting.get(run)?.keys() ?? [])];
  }

  /** @param path one step, or all that wait now */
  say(run: string, go: boolean, path?: string): void {
    const steps = this.#waiting.get(run);
    if (!steps) throw new PindroError('request_invalid', { why: `No step of run ${run} is paused` });
    if (path !== undefined && !steps.has(path))
      throw new PindroError('request_invalid', {
        why: `Step "${path}" is not paused; paused: ${[...steps.keys()].join(', ')}`,
      });
    for (const [name, answer] of steps) if (path === undefined || name === path) answer(go);
  }
}
