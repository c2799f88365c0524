import {
  bytesIn,
  humanSize,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  jsonMistake,
  PindroError,
  type Receipt,
  refuseManyInputs,
  type TraceContext,
} from '@pindro/core';
import express, { type Express, type Request, type RequestHandler, type Response } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { FailedAuthentications } from '../keys/failed-authentications.js';
import type { KeyStore } from '../keys/store.js';
import { traceOf } from '../platform/trace-of.js';
import { sendDescribed } from './hook-response.js';
import { requireSignature } from './signature.js';
import type { EntryRecord, EntryStore } from './store.js';
import { fromTexts } from './texts.js';
import { type CookieSigner, strangerAt } from './visitor.js';

type HookSettings = Extract<EntryRecord['settings'], { kind: 'hook' }>;

/** What every entry point with an address needs. */
export interface EntryParts {
  store: EntryStore;
  keys: KeyStore;
  guesses: FailedAuthentications;
  /** The largest body that may be taken at all, in bytes. */
  bodyLimit: number;
  /** What the flow takes; throws where it cannot be called now. */
  inputOf(flow: string): JsonSchema;
  begin: Begin;
  /** Signs the cookies of visitors. */
  signer: CookieSigner;
}
export type Begin = (call: {
  entry: EntryRecord;
  input: JsonObject;
  caller: { id: string; attributes: JsonObject };
  session?: string | null;
  /** The trace that the caller named. */
  trace?: TraceContext | undefined;
}) => { run: string; outcome: Promise<EntryOutcome> };
export interface EntryOutcome {
  /** What its agents did. */
  receipt?: Receipt;
  run: string;
  state: string;
  result: unknown;
  error: PindroError | null;
}

interface HookCall {
  entry: EntryRecord;
  settings: HookSettings;
  /** Set once it is known that the call may be made. */
  caller?: { id: string; attributes: JsonObject };
}
const calls = new WeakMap<Request, HookCall>();

/** Responds at /hooks/NAME. It comes before the gate, because other origins may be allowed. */
export function hookRoutes(app: Express, { store, keys, guesses, bodyLimit, inputOf, begin }: EntryParts): void {
  const admitByKey: RequestHandler = (request, _response, next) => {
    const call = calls.get(request)!;
    if (call.settings.guard === 'key') call.caller = callerOfKey(request, call.entry, { keys, guesses });
    next();
  };
  const admitByBody: RequestHandler = (request, _response, next) => {
    const call = calls.get(request)!;
    const body = typeof request.body === 'string' ? request.body : '';
    call.caller ??= admit(request, call, body, store);
    next();
  };
  app.all(
    '/hooks/:path',
    (request, _response, next) => {
      const path = String(request.params.path);
      const entry = store.at('hook', path);
      if (entry?.settings.kind !== 'hook')
        throw new PindroError('not_found', {
          what: 'hook',
          name: path,
          suggestion: 'Check the address, and whether the webhook is enabled.',
        });
      calls.set(request, { entry, settings: entry.settings });
      next();
    },
    acrossOrigins,
    // Whoever may not call uses up nothing of what those who may have in a minute.
    admitByKey,
    bounded(
      (limit) => express.text({ type: () => true, limit, defaultCharset: 'utf-8' }),
      (request) => calls.get(request)!.settings.bodyLimit,
      bodyLimit,
    ),
    admitByBody,
    perMinute((request) => calls.get(request)!.entry),
    async (request: Request, response: Response) => {
      const { entry, settings, caller: admitted } = calls.get(request)!;
      const caller = admitted!;
      const body = typeof request.body === 'string' ? request.body : '';
      const input = inputFrom(request, body, inputOf(entry.flow));
      const message = settings.guard === 'signature' ? String(request.headers['webhook-id']) : null;
      if (message !== null) store.takeMessage(entry.id, message, Date.now());
      store.used(entry.id, Date.now());
      const { run, outcome } = beginOnce(
        () => begin({ entry, input, caller, trace: traceOf(request) }),
        () => {
          if (message !== null) store.dropMessage(entry.id, message);
        },
      );
      if (settings.answer === 'run') return void response.status(202).json({ run, state: 'running' });
      const { state, result, error } = await outcome;
      if (error) throw Object.assign(error, { run });
      if (state === 'waiting') return void response.status(202).json({ run, state });
      if (settings.answer === 'response') return sendDescribed(response, result as Json, entry.flow);
      response.json(result);
    },
  );
}

/** What could not even begin may be sent again under the same id. */
function beginOnce<T>(begin: () => T, undo: () => void): T {
  try {
    return begin();
  } catch (error) {
    undo();
    throw error;
  }
}

/** Reads the body with the limit of the entry point; one parser per limit. */
export function bounded(
  make: (limit: number) => RequestHandler,
  limitOf: (request: Request) => string,
  most: number,
): RequestHandler {
  const parsers = new Map<string, RequestHandler>();
  return (request, response, next) => {
    const limit = limitOf(request);
    let parser = parsers.get(limit);
    if (!parser) parsers.set(limit, (parser = make(Math.min(bytesIn(limit), most))));
    const where = bytesIn(limit) > most ? 'with --body-limit' : 'at this entry point';
    parser(request, response, (error?: unknown) => {
      if ((error as { type?: string } | undefined)?.type !== 'entity.too.large') return next(error);
      next(new PindroError('body_too_large', { limit: humanSize(Math.min(bytesIn(limit), most)), where }));
    });
  };
}

/** Rate limit of one entry point, for all callers together. */
export const perMinute = (entryOf: (request: Request) => EntryRecord) =>
  rateLimit({
    windowMs: 60_000,
    limit: (request) => {
      const { settings } = entryOf(request as Request);
      return settings.kind === 'schedule' ? 1 : settings.perMinute;
    },
    keyGenerator: (request) => entryOf(request as Request).id,
    standardHeaders: true,
    legacyHeaders: false,
    handler: () => {
      throw new PindroError('too_many_requests');
    },
  });

/** Lets pages of the allowed origins call from a browser (CORS); others are refused. */
function acrossOrigins(request: Request, response: Response, next: () => void): void {
  const { settings } = calls.get(request)!;
  const { origin } = request.headers;
  if (origin !== undefined) {
    if (!settings.origins.includes(origin) && !settings.origins.includes('*'))
      throw new PindroError('origin_refused', { origin });
    response.vary('Origin').set('Access-Control-Allow-Origin', origin);
  }
  if (request.method === 'OPTIONS' && origin !== undefined)
    return void response
      .status(204)
      .set('Access-Control-Allow-Methods', settings.methods.join(', '))
      .set(
        'Access-Control-Allow-Headers',
        'authorization, content-type, webhook-id, webhook-timestamp, webhook-signature',
      )
      .set('Access-Control-Max-Age', '600')
      .end();
  const method = request.method as HookSettings['methods'][number];
  if (!settings.methods.includes(method)) {
    response.set('Allow', settings.methods.join(', '));
    throw new PindroError('method_refused', { allowed: settings.methods.join(', '), method });
  }
  next();
}

/** On whose behalf an open or signed call is. @throws signature_refused */
function admit(
  request: Request,
  { entry, settings }: HookCall,
  body: string,
  store: EntryStore,
): { id: string; attributes: JsonObject } {
  // Nobody knows whether two callers of an open hook are one.
  if (settings.guard === 'open') return strangerAt(entry).caller;
  requireSignature(store.secretOf(entry) ?? '', request.headers, body, Date.now());
  // The signature is over the body alone.
  if (Object.keys(request.query).length > 0)
    throw new PindroError('signature_refused', { why: 'the query string of the address is not signed' });
  return { id: `hook ${entry.path}`, attributes: {} };
}

/** On whose behalf a call with a key is. @throws what keeps it out */
function callerOfKey(
  request: Request,
  entry: EntryRecord,
  { keys, guesses }: Pick<EntryParts, 'keys' | 'guesses'>,
): { id: string; attributes: JsonObject } {
  const access = guesses.watch(request, () => keys.present(request.headers.authorization));
  const opens = access.manage || access.endpoints.includes('*') || access.endpoints.includes(`hook/${entry.path}`);
  if (!opens) throw new PindroError('not_allowed', { name: access.name, what: `hook "${entry.path}"` });
  return access.caller;
}

/** The input: the query, overridden by the body. */
function inputFrom(request: Request, body: string, schema: JsonSchema): JsonObject {
  const given = fromTexts(schema, request.query as Record<string, unknown>);
  if (body.trim() === '') return given;
  if (request.is('application/x-www-form-urlencoded'))
    return { ...given, ...fromTexts(schema, Object.fromEntries(new URLSearchParams(body))) };
  let read: unknown;
  try {
    read = JSON.parse(body);
  } catch (error) {
    throw new PindroError('body_unreadable', { why: jsonMistake(error) });
  }
  if (!isObject(read))
    throw new PindroError('request_invalid', { why: 'The body must be a JSON object with the inputs of the flow' });
  refuseManyInputs(read);
  return { ...given, ...read };
}
