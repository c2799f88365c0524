import { PindroError, systemCode } from '../errors/errors.js';
import { isObject, type JsonObject } from '../json/json.js';
import { type FetchAnswer, type ModelConnection, withQuery } from '../ports/ports.js';
import type { AskOptions } from './asking.js';
import type { Dialect, Refusal } from './dialect.js';
import { DIALECT_NAMES, dialectNamed } from './registry.js';
import { settingsOf } from './settings.js';

const MAX_ANSWER = 8 * 1024 * 1024;
/** What to do about a refusal. */
const FIXES: Record<Refusal, (dialect: Dialect) => string> = {
  key: ({ key }) =>
    `Add a credential with a valid key to the model connection. Servers of this dialect usually expect it ${key}.`,
  unpaid: () => 'The account has no credit left or may not use this model: check its billing.',
  busy: () => 'Too many requests, or an overload: wait, raise the quota, or add a fallback connection.',
  model: () => 'Check the base address and the model name; "pindro model available" lists the names.',
  context: () =>
    'The request exceeds the context window: forward less of large results, remember less, or use another model.',
  request: () =>
    'The model rejected the request; its message gives the reason. Set a header or field that it requires with headers.NAME or body.FIELD in the settings of the connection.',
  fault: () => 'The model failed internally: retry later, or ask its operator.',
};

/** @throws model_garbage where it is not known */
export function dialectOf({ name, dialect: named }: ModelConnection): Dialect {
  const dialect = dialectNamed(named);
  if (dialect) return dialect;
  const why = `the dialect "${named}" is unknown; known: ${DIALECT_NAMES.join(', ')}`;
  throw new PindroError('model_garbage', { model: name, why }, { details: { model: name } });
}

/** Sends a request to where a model answers, with its key. @throws model_unreachable, and what the signal says */
export async function send(
  connection: ModelConnection,
  request: { method: string; path: string; body: string | null; headers: Record<string, string> },
  options: Pick<AskOptions, 'fetch' | 'secrets' | 'masker' | 'signal'>,
  onPiece?: (piece: string) => void,
): Promise<FetchAnswer> {
  const { name, base, credential } = connection;
  const secret = credential ? await options.secrets.reveal(credential, { url: base }) : { headers: {}, secrets: [] };
  for (const value of secret.secrets) options.masker.add(value);
  const { method, path, body } = request;
  const headers = { ...request.headers, ...settingsOf(connection.settings).headers, ...secret.headers };
  return options
    .fetch(
      { method, url: withQuery(base + path, secret), headers, body, maxBytes: MAX_ANSWER },
      { signal: options.signal, ...(onPiece && { onPiece }) },
    )
    .catch((error: unknown) => {
      if (options.signal.aborted) throw options.signal.reason;
      if (error instanceof PindroError) throw error;
      const why = error instanceof Error ? error.message : String(error);
      throw new PindroError(
        'model_unreachable',
        { model: name, why },
        { cause: error, details: { model: name, address: base, network: systemCode(error) } },
      );
    });
}

/** @param text the body of the answer, masked */
export function refused(connection: ModelConnection, dialect: Dialect, answer: FetchAnswer, text: string): PindroError {
  const { name, base } = connection;
  const { status } = answer;
  const body = asObject(text);
  const kind = dialect.refusal(status, body);
  const wait = retryAfter(answer, body);
  const why = wordsOf(body, text);
  return new PindroError(
    'model_refused',
    { model: name, status, why, fix: FIXES[kind](dialect) },
    { details: { model: name, address: base, status, kind, why, ...paramOf(body), ...(wait !== null && { wait }) } },
  );
}

/** The field of the request that a refusal names, where its format has a place for it. */
const paramOf = ({ error }: JsonObject): { param?: string } =>
  isObject(error) && typeof error.param === 'string' ? { param: error.param } : {};

/** HTTP statuses of what an error inside of a stream can be, by the words of the formats. */
const STREAM_STATUS: Record<string, number> = {
  ...{ overloaded_error: 529, rate_limit_error: 429, api_error: 500, invalid_request_error: 400 },
  ...{ authentication_error: 401, permission_error: 403, billing_error: 402, not_found_error: 404 },
  ...{ request_too_large: 413, rate_limit_exceeded: 429, insufficient_quota: 402, server_error: 500 },
  ...{ UNAVAILABLE: 503, RESOURCE_EXHAUSTED: 429, INVALID_ARGUMENT: 400, INTERNAL: 500 },
};

/** Returns the status and body that an error inside of a stream would have had as a response. */
export function streamRefusal(body: JsonObject): { status: number; details: string } {
  const { code, type, status } = isObject(body.error) ? body.error : {};
  const named = [code, type, status].map((one) => STREAM_STATUS[String(one)]).find((one) => one !== undefined);
  const number = [code, status].find((one) => typeof one === 'number' && one >= 400 && one < 600);
  return { status: Number(number ?? named ?? 500), details: JSON.stringify(body) };
}

function asObject(text: string): JsonObject {
  try {
    const parsed: unknown = JSON.parse(text);
    if (isObject(parsed)) return parsed;
    if (Array.isArray(parsed) && isObject(parsed[0])) return parsed[0];
  } catch {
    // not JSON; shown as it is
  }
  return {};
}

/** Returns the message of an error body, wherever it is. */
function wordsOf(body: JsonObject, text: string): string {
  const { error } = body;
  const said = typeof error === 'string' ? error : isObject(error) ? error.message : (body.message ?? body.detail);
  if (typeof said === 'string' && said.trim() !== '') return said.trim();
  return text.trim().slice(0, 200) || 'no reason given';
}

/** How long it asks to be left alone, in milliseconds; null where it does not say. */
function retryAfter({ headers }: FetchAnswer, body: JsonObject): number | null {
  const exact = Number(headers['retry-after-ms']);
  if (Number.isFinite(exact) && exact >= 0 && headers['retry-after-ms']) return exact;
  const said = headers['retry-after'];
  if (said) {
    const seconds = Number(said);
    if (Number.isFinite(seconds)) return Math.max(0, seconds * 1000);
    const moment = Date.parse(said);
    if (!Number.isNaN(moment)) return Math.max(0, moment - Date.now());
  }
  const details = isObject(body.error) && Array.isArray(body.error.details) ? body.error.details : [];
  for (const one of details) {
    const seconds =
      isObject(one) && typeof one.retryDelay === 'string' ? Number.parseFloat(one.retryDelay) : Number.NaN;
    if (Number.isFinite(seconds)) return seconds * 1000;
  }
  return null;
}
