import { createHash, randomUUID } from 'node:crypto';
import type { JsonObject } from '@pindro/core';
import { parse as parseCookie } from 'cookie';
import type { Request, Response } from 'express';
import { visitorName } from '../platform/visitor-name.js';
import type { EntryRecord } from './store.js';

/** Signs what a visitor's browser holds, so that only cookies that the service issued are accepted. */
export interface CookieSigner {
  sign(text: string): string;
  isSigned(text: string, signature: string): boolean;
}

/** Somebody who uses a public entry point without signing in. */
export interface Visitor {
  /** Unguessable; identifies the browser at one entry point. */
  id: string;
  caller: { id: string; attributes: JsonObject };
}

const COOKIE = { chat: 'pindro_chat', form: 'pindro_form', hook: '', schedule: '' } as const;

/**
 * The visitor of a chat or form: known by a signed cookie, which is set for a new one. A cookie of somebody else's making
 * is ignored.
 */
export function visitorOf(request: Request, response: Response, entry: EntryRecord, signer: CookieSigner): Visitor {
  const name = COOKIE[entry.kind];
  const [id = '', signature = ''] = (parseCookie(request.headers.cookie ?? '')[name] ?? '').split('.');
  if (id !== '' && signer.isSigned(bound(entry, id), signature)) return visitor(entry, id);
  const fresh = randomUUID();
  response.cookie(name, `${fresh}.${signer.sign(bound(entry, fresh))}`, {
    httpOnly: true,
    sameSite: 'lax',
    path: `/${entry.kind}s/${entry.path}`,
    secure: request.secure,
    ...(entry.kind === 'form' && { maxAge: 365 * 24 * 60 * 60_000 }),
  });
  return visitor(entry, fresh);
}

/** A visitor of whom nothing is known: each call of an open hook is one. */
export const strangerAt = (entry: EntryRecord): Visitor => visitor(entry, randomUUID());

/** A cookie of one entry point is worth nothing at another. */
const bound = (entry: EntryRecord, id: string) => `${entry.kind} ${entry.id} ${id}`;

function visitor(entry: EntryRecord, id: string): Visitor {
  // What is shown of a caller must not be what its browser holds.
  const shown = createHash('sha256').update(id).digest('base64url').slice(0, 10);
  return { id, caller: { id: visitorName(entry, shown), attributes: {} } };
}
