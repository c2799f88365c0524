/** Maximum time without yielding, in milliseconds. */
const HOLD = 8;

/** When it is time to let others run; 0 while nothing is going on. */
let due = 0;

const { setImmediate } = globalThis as { setImmediate?: (act: () => void) => unknown };
/** Runs a function in the next turn of the event loop. A timer, which is all that browsers have, idles for 1 ms. */
const soon = (act: () => void): void => void (setImmediate ? setImmediate(act) : setTimeout(act, 0));

/**
 * Yields to other work before a long operation.
 * @returns a promise that is settled after waiting timers and requests had their turn
 */
export const letOthers = (): Promise<void> => new Promise(soon);

/**
 * Yields to other work after a certain amount of work. Without it, a long chain of computations or a loop over many
 * items would block every other run, request and timer.
 * @returns a promise only when it is time, so that asking costs next to nothing
 */
export function giveWay(): Promise<void> | undefined {
  const now = performance.now();
  if (due === 0) {
    due = now + HOLD;
    // Comes only once others have had their turn.
    soon(() => {
      due = 0;
    });
  }
  if (now < due) return undefined;
  // Many that wait are resumed in the same turn: each asks again, so that together they do not hold it longer.
  return letOthers().then(giveWay);
}
