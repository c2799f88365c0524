import { PindroError } from '../errors/errors.js';
import { isObject } from '../json/json.js';
import { jsonMistake } from '../json/json-mistake.js';
import type { ModelConnection } from '../ports/ports.js';
import type { AskOptions } from './asking.js';
import { dialectOf, refused, send } from './send.js';
import { keysOf } from './wrap/keys.js';

/**
 * Lists the models of a server, with the first key that it accepts.
 * @param connection to the server
 * @param options how to reach it, and its secrets
 * @returns names of models
 * @throws what asking throws
 */
export async function modelsOffered(
  connection: ModelConnection,
  options: Pick<AskOptions, 'fetch' | 'secrets' | 'masker' | 'signal'>,
): Promise<string[]> {
  const keys = keysOf(connection);
  for (const [index, credential] of keys.entries())
    try {
      return await offeredTo({ ...connection, credential }, options);
    } catch (error) {
      const isKey = error instanceof PindroError && error.details?.kind === 'key';
      if (!isKey || index === keys.length - 1) throw error;
    }
  return [];
}

async function offeredTo(
  connection: ModelConnection,
  options: Pick<AskOptions, 'fetch' | 'secrets' | 'masker' | 'signal'>,
): Promise<string[]> {
  const dialect = dialectOf(connection);
  const headers = { accept: 'application/json' };
  const answer = await send(connection, { method: 'GET', path: '/models', body: null, headers }, options);
  const text = options.masker.text(answer.body);
  if (answer.status >= 400) throw refused(connection, dialect, answer, text);
  try {
    const body: unknown = JSON.parse(text);
    if (!isObject(body)) throw new SyntaxError('the response is not an object');
    return [...new Set(dialect.models(body))];
  } catch (error) {
    const why = `the response is not a list of models: ${jsonMistake(error)}`;
    throw new PindroError('model_garbage', { model: connection.name, why }, { cause: error });
  }
}
