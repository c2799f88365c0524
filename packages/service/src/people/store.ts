import { createHash } from 'node:crypto';
import { PindroError } from '@pindro/core';
import { and, eq, gt, lt } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { randomText } from '../platform/settings.js';
import { signIns } from './tables.js';

const LINK_LIVES = 60 * 60_000;
const SESSION_LIVES = 30 * 24 * 60 * 60_000;
const hashOf = (text: string) => createHash('sha256').update(text).digest('base64url');

/** Signs people in to the console by links that work once. */
export class PeopleStore {
  constructor(private readonly database: Database) {}

  /** The code of a new one-time link; good for an hour. */
  newCode(): string {
    this.database.delete(signIns).where(lt(signIns.expiresAt, Date.now())).run();
    return this.#keep('link', LINK_LIVES);
  }

  /** Trades a code for a session. @throws sign_in_link_used */
  signIn(code: string): string {
    const taken = this.database
      .delete(signIns)
      .where(and(eq(signIns.hash, hashOf(code)), eq(signIns.kind, 'link'), gt(signIns.expiresAt, Date.now())))
      .returning()
      .all();
    if (taken.length === 0) throw new PindroError('sign_in_link_used');
    return this.#keep('session', SESSION_LIVES);
  }

  isSession(token: string): boolean {
    const row = this.database
      .select({ hash: signIns.hash })
      .from(signIns)
      .where(and(eq(signIns.hash, hashOf(token)), eq(signIns.kind, 'session'), gt(signIns.expiresAt, Date.now())))
      .get();
    return row !== undefined;
  }

  signOut(token: string): void {
    this.database
      .delete(signIns)
      .where(eq(signIns.hash, hashOf(token)))
      .run();
  }

  #keep(kind: 'link' | 'session', lives: number): string {
    const token = randomText(43);
    this.database
      .insert(signIns)
      .values({ hash: hashOf(token), kind, expiresAt: Date.now() + lives })
      .run();
    return token;
  }
}
