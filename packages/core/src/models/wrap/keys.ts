import { PindroError } from '../../errors/errors.js';
import type { ModelConnection } from '../../ports/ports.js';
import type { Ask } from '../asking.js';

/** Refusals that another key may not meet. */
const OF_THE_KEY = ['key', 'unpaid', 'busy'];
/** How often each connection was asked: its keys take turns. */
const asked = new Map<string, number>();

/** All credentials to try, starting with the first; null for none. */
export const keysOf = ({ credential, keys = [] }: ModelConnection): (string | null)[] =>
  credential === null && keys.length === 0 ? [null] : [...(credential === null ? [] : [credential]), ...keys];

/** Tries keys in rotation; after a rejection the next one is used. */
export const withKeys =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const keys = keysOf(connection);
    if (keys.length < 2) return ask(connection, turns, tools, options);
    const first = asked.get(connection.name) ?? 0;
    asked.set(connection.name, (first + 1) % keys.length);
    for (let tried = 0; ; tried++) {
      const credential = keys[(first + tried) % keys.length] ?? null;
      try {
        return await ask({ ...connection, credential }, turns, tools, options);
      } catch (error) {
        const kind = error instanceof PindroError && error.code === 'model_refused' ? error.details?.kind : null;
        if (tried + 1 >= keys.length || !OF_THE_KEY.includes(String(kind))) throw error;
        const why = `the key "${credential}" was rejected (${error instanceof PindroError ? error.details?.status : ''}); trying the next one`;
        options.onAgain?.({ why, waited: 0, connection: connection.name });
      }
    }
  };
