import { PindroError } from '../../errors.js';
import type { ModelConnection } from '../../ports.js';
import type { Ask } from '../asking.js';

/** Refusals that another key may not meet. */
const OF_THE_KEY = ['key', 'unpaid', 'busy'];
/** How often each connection was asked: its keys take turns. */
const asked = new Map<string, number>();

/** Every credential that may go along, the first first; null where none does. */
export const keysOf = ({ credential, keys = [] }: ModelConnection): (string | null)[] =>
  credential === null && keys.length === 0 ? [null] : [...(credential === null ? [] : [credential]), ...keys];

/** Asks with one key after the other where there are several: each begins in its turn, and a refusal goes on to the next. */
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
