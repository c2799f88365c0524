import { orAborted } from '../../async/abort.js';
import { PindroError } from '../../errors/errors.js';
import type { Ask } from '../asking.js';
import { patienceOf, settingsOf } from '../settings.js';

/** Waited where the model does not say how long, in milliseconds; twice as long each time. */
const FIRST_WAIT = 500;

/**
 * Asks again where a model is busy, after as long as it says, or cannot be reached or broke off before anything of it was
 * shown: asking does nothing but cost. All of that within the patience of the connection.
 */
export const withPatience =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const patience = patienceOf(settingsOf(connection.settings));
    const begun = performance.now();
    for (let attempt = 0; ; attempt++) {
      try {
        return await ask(connection, turns, tools, options);
      } catch (error) {
        if (options.signal.aborted || !(error instanceof PindroError)) throw error;
        const again = againOf(error, attempt);
        const left = patience - (performance.now() - begun);
        if (again === null || again.wait > left) throw error;
        options.onAgain?.({ why: error.message, waited: Math.round(again.wait), connection: connection.name });
        await orAborted(new Promise<void>((resolve) => setTimeout(resolve, again.wait)), options.signal);
      }
    }
  };

function againOf(error: PindroError, attempt: number): { wait: number } | null {
  const { kind, wait, begun } = error.details ?? {};
  const grown = FIRST_WAIT * 2 ** attempt;
  if (error.code === 'model_refused')
    return kind === 'busy' || (kind === 'fault' && attempt < 2)
      ? { wait: typeof wait === 'number' ? Math.max(wait, attempt * FIRST_WAIT) : grown }
      : null;
  // Once or twice: a stream may break, and a server may be starting.
  const isBroken = error.code === 'model_unreachable' || error.code === 'model_garbage';
  return isBroken && begun !== true && attempt < (error.code === 'model_garbage' ? 1 : 2) ? { wait: grown } : null;
}
