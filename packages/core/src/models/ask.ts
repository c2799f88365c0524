import { PindroError } from '../errors.js';
import type { JsonSchema } from '../json.js';
import { type FetchPort, type ModelConnection, type SecretPort, withQuery } from '../ports.js';
import type { Masker } from '../trace/masking.js';
import type { ModelAnswer, OfferedTool, Turn } from './dialect.js';
import { DIALECT_NAMES, dialectNamed } from './registry.js';

export interface AskOptions {
  fetch: FetchPort;
  secrets: SecretPort;
  masker: Masker;
  signal: AbortSignal;
  traceparent?: string;
  onText?: (text: string) => void;
  /** A schema that the answer must fit. */
  schema?: JsonSchema;
}

const MAX_ANSWER = 8 * 1024 * 1024;

/** What to do about a status that a model answers with. */
const FIXES: Record<number, string> = {
  400: 'The model did not accept the request; its message says why.',
  401: 'Give the model connection a credential with a valid key.',
  403: 'The key is known but may not use this model.',
  404: 'Check the base address and the name of the model.',
  429: 'The model is asked too often; wait, or raise the quota there.',
};

/**
 * Asks a model once and reads its streamed answer.
 * @throws model_unreachable, model_refused, model_garbage, or what the signal was aborted with
 */
export async function askModel(
  connection: ModelConnection,
  turns: Turn[],
  tools: OfferedTool[],
  options: AskOptions,
): Promise<ModelAnswer> {
  const { name } = connection;
  const details = { model: name, address: connection.base };
  const dialect = dialectNamed(connection.dialect);
  if (!dialect)
    throw new PindroError(
      'model_garbage',
      { model: name, why: `the dialect "${connection.dialect}" is not known; known: ${DIALECT_NAMES.join(', ')}` },
      { details },
    );
  const { path, body } = dialect.request(connection, turns, tools, options.schema);
  const secret = connection.credential
    ? await options.secrets.reveal(connection.credential, { url: connection.base })
    : { headers: {}, secrets: [] };
  for (const value of secret.secrets) options.masker.add(value);
  const reader = dialect.reader();
  const shown = options.masker.stream();
  let unreadable: unknown;
  let pieces = '';

  const answer = await options
    .fetch(
      {
        method: 'POST',
        url: withQuery(connection.base + path, secret),
        headers: {
          'content-type': 'application/json',
          accept: 'text/event-stream, application/json',
          ...(options.traceparent && { traceparent: options.traceparent }),
          ...secret.headers,
        },
        body: JSON.stringify(body),
        maxBytes: MAX_ANSWER,
      },
      {
        signal: options.signal,
        onPiece: (piece) => {
          if (pieces.length < 2000) pieces += piece;
          try {
            const fresh = unreadable ? '' : shown.push(reader.push(piece));
            if (fresh) options.onText?.(fresh);
          } catch (error) {
            unreadable = error;
          }
        },
      },
    )
    .catch((error: unknown) => {
      if (options.signal.aborted) throw options.signal.reason;
      if (error instanceof PindroError) throw error;
      const why = error instanceof Error ? error.message : String(error);
      throw new PindroError('model_unreachable', { model: name, why }, { cause: error, details });
    });

  if (answer.status >= 400) {
    const fix = FIXES[answer.status] ?? 'The fault is at the model; try again later, or ask whoever runs it.';
    throw new PindroError(
      'model_refused',
      { model: name, status: answer.status, why: refusal(options.masker.text(answer.body || pieces)), fix },
      { details: { ...details, status: answer.status } },
    );
  }
  try {
    if (unreadable) throw unreadable;
    const read = reader.end();
    const rest = shown.end();
    if (rest) options.onText?.(rest);
    return { ...read, text: options.masker.text(read.text) };
  } catch (error) {
    throw new PindroError(
      'model_garbage',
      { model: name, why: options.masker.text((error as Error).message) },
      { cause: error, details },
    );
  }
}

/** The message in an error body, whichever of the usual places it stands in. */
function refusal(body: string): string {
  try {
    const parsed = JSON.parse(body) as { error?: { message?: string } | string; message?: string };
    const text = typeof parsed.error === 'string' ? parsed.error : (parsed.error?.message ?? parsed.message);
    if (text) return text;
  } catch {
    // not JSON; shown as it is
  }
  return body.trim().slice(0, 200) || 'it gave no reason';
}
