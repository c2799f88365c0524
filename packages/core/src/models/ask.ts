import { PindroError } from '../errors/errors.js';
import type { ModelConnection } from '../ports/ports.js';
import type { Ask, AskedAnswer, AskOptions } from './asking.js';
import type { OfferedTool, Turn } from './dialect.js';
import { dialectOf, refused, send, streamRefusal } from './send.js';
import { settingsOf } from './settings.js';
import { StreamError } from './stream.js';
import { withFallback } from './wrap/fallback.js';
import { withKeys } from './wrap/keys.js';
import { withPauses } from './wrap/pauses.js';
import { withPatience } from './wrap/retry.js';
import { withoutUnsupported } from './wrap/unsupported.js';

/** So much of an answer that could not be read is quoted, in characters. */
const QUOTED = 2000;

/**
 * Calls a model. Retries a busy model, and uses the next key or the fallback if it refuses.
 * @throws model_unreachable, model_refused, model_garbage, or what the signal was aborted with
 */
export const askModel: Ask = withFallback(withPatience(withKeys(withPauses(withoutUnsupported(askOnce)))));

async function askOnce(
  connection: ModelConnection,
  turns: readonly Turn[],
  tools: readonly OfferedTool[],
  options: AskOptions,
): Promise<AskedAnswer> {
  const { name } = connection;
  const details = { model: name, address: connection.base };
  const dialect = dialectOf(connection);
  const own = settingsOf(connection.settings);
  const { longest = Number.POSITIVE_INFINITY } = options;
  const settings = longest < (own.max_tokens ?? Number.POSITIVE_INFINITY) ? { ...own, max_tokens: longest } : own;
  const fitted = tools.map((tool) => ({ ...tool, schema: dialect.schema(tool.schema).schema }));
  const { choice = 'auto', schema } = options;
  const { path, body } = dialect.request({ connection, settings, turns, tools: fitted, choice, schema });
  const reader = dialect.reader();
  const shown = options.masker.stream();
  let unreadable: unknown;
  let pieces = '';
  let shownAny = false;
  const show = (fresh: string) => {
    if (!fresh) return;
    shownAny = true;
    options.onText?.(fresh);
  };
  const request = {
    ...{ method: 'POST', path, body: JSON.stringify(body) },
    headers: {
      'content-type': 'application/json',
      accept: settings.stream === false ? 'application/json' : 'text/event-stream, application/json',
      ...options.trace,
    },
  };
  const answer = await send(connection, request, options, (piece) => {
    if (pieces.length < QUOTED) pieces += piece;
    try {
      if (!unreadable) show(shown.push(reader.push(piece)));
    } catch (error) {
      unreadable = error;
    }
  }).catch((error: unknown) => {
    if (error instanceof PindroError && error.details) Object.assign(error.details, { begun: shownAny });
    throw error;
  });
  if (answer.status >= 400) throw refused(connection, dialect, answer, options.masker.text(answer.body || pieces));
  try {
    if (unreadable) throw unreadable;
    const read = reader.end();
    show(shown.end());
    return { ...read, text: options.masker.text(read.text), by: connection };
  } catch (error) {
    // An error inside of a stream is the refusal that it reports.
    if (error instanceof StreamError) {
      const { details: told, ...more } = streamRefusal(error.body);
      throw withBegun(refused(connection, dialect, { ...answer, ...more }, options.masker.text(told)), shownAny);
    }
    const why = `${options.masker.text((error as Error).message)}${quote(options.masker.text(pieces))}`;
    throw new PindroError(
      'model_garbage',
      { model: name, why },
      { cause: error, details: { ...details, begun: shownAny } },
    );
  }
}

function withBegun(error: PindroError, begun: boolean): PindroError {
  Object.assign(error.details!, { begun });
  return error;
}

function quote(pieces: string): string {
  const first = pieces.trim().replace(/\s+/g, ' ').slice(0, 80);
  return first ? ` (starts with "${first}")` : '';
}
