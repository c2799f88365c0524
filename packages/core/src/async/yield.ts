/** Maximum time without yielding, in milliseconds. */
const HOLD = 8;

/** When it is time to let others run; 0 while nothing is going on. */
let due = 0;

const { setImmediate } = globalThis as { setImmediate?: (act: () => void) => unknown };
/** Runs a function in the next turn of the event loop. A timer, which is all that browsers have, idles for 1 ms. */
const soon = (act: () => void): void => void (setImmediate ? setImmediate(act) : setTimeout(act, 0));

/**
 * Lets others run now, before what is known to take long.
 * @returns a promise that is settled after waiting timers and requests had their turn
 */
export const letOthers = (): Promise<void> => new Promise(soon);

/**
 * Lets other work run when much has been done in one go. Work that never waits for the outside (a long chain of
 * computations, a loop over many items) would otherwise keep every other run, request and timer waiting.
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
