import { PindroError } from '../../errors.js';
import type { Ask } from '../asking.js';

/** Refusals that another key may not meet. */
const OF_THE_KEY = ['key', 'unpaid', 'busy'];
/** How often each connection was asked: its keys take turns. */
const asked = new Map<string, number>();

/** Asks with one key after the other where there are several: each begins in its turn, and a refusal goes on to the next. */
export const withKeys =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const keys = [...(connection.credential ? [connection.credential] : []), ...(connection.keys ?? [])];
    if (keys.length < 2) return ask(connection, turns, tools, options);
    const first = asked.get(connection.name) ?? 0;
    asked.set(connection.name, (first + 1) % keys.length);
    for (let tried = 0; ; tried++) {
      const credential = keys[(first + tried) % keys.length]!;
      try {
        return await ask({ ...connection, credential }, turns, tools, options);
      } catch (error) {
        const kind = error instanceof PindroError && error.code === 'model_refused' ? error.details?.kind : null;
        if (tried + 1 >= keys.length || !OF_THE_KEY.includes(String(kind))) throw error;
        const why = `the key "${credential}" was refused (${error instanceof PindroError ? error.details?.status : ''}); the next one is tried`;
        options.onAgain?.({ why, waited: 0, connection: connection.name });
      }
    }
  };
