import { PindroError } from '../../errors/errors.js';
import type { Ask } from '../asking.js';

/** A chain of fallbacks is followed so far. */
const FURTHEST = 5;

/** Asks the connection's fallback where it cannot or will not answer itself. What is too long is too long for nobody else. */
export const withFallback =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const tried = new Set<string>();
    let asked = connection;
    for (;;) {
      tried.add(asked.name);
      try {
        return await ask(asked, turns, tools, options);
      } catch (error) {
        if (options.signal.aborted || !(error instanceof PindroError) || !error.code.startsWith('model_')) throw error;
        // What the model said of the question itself another would say as well.
        if (error.details?.kind === 'request' || error.details?.begun === true) throw error;
        const next = asked.fallback;
        if (!next || tried.has(next) || tried.size >= FURTHEST || !options.connectionNamed) throw error;
        options.onAgain?.({ why: error.message, waited: 0, connection: next });
        asked = await options.connectionNamed(next);
      }
    }
  };
