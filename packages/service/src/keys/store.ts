import { createHash } from 'node:crypto';
import type { KeySummary, Stage } from '@pindro/contract';
import { type Caller, type JsonObject, PindroError } from '@pindro/core';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { randomText } from '../platform/settings.js';
import { keys } from './tables.js';

/** A key that was presented and is good. */
export interface Access {
  id: string;
  name: string;
  caller: Caller;
  stage: Stage;
  endpoints: string[];
  manage: boolean;
}

export interface NewKey {
  name: string;
  caller?: string | undefined;
  attributes: JsonObject;
  stage: Stage;
  endpoints: string[];
  manage: boolean;
}

const BEGINNING = 'pindro_';
/** When a key was last used is written at most this often. */
const TOUCH_EVERY = 60_000;
const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

// A key is 256 random bits, so that a plain hash is as good as a slow one, and looking it up tells nothing by its time.
const hashOf = (key: string) => createHash('sha256').update(key).digest('base64url');

export class KeyStore {
  readonly #good = new Map<string, Access>();
  readonly #touched = new Map<string, number>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {}

  /** @returns the key itself, this once, and what is kept of it */
  issue(given: NewKey): { key: string; summary: KeySummary } {
    const key = BEGINNING + randomText(43);
    const id = `k${randomText(10).replaceAll(/[-_]/g, 'x')}`;
    this.database
      .insert(keys)
      .values({
        id,
        name: given.name,
        hash: hashOf(key),
        beginning: key.slice(0, BEGINNING.length + 4),
        caller: given.caller ?? given.name,
        attributes: given.attributes,
        stage: given.stage,
        endpoints: given.endpoints,
        manage: given.manage,
        createdAt: Date.now(),
      })
      .run();
    this.bus.changed('key', id);
    return { key, summary: this.summary(id) };
  }

  /**
   * The access that an Authorization header (RFC 6750, section 2.1) gives.
   * @throws not_signed_in, key_without_bearer, key_unknown, key_revoked
   */
  present(header: string | undefined): Access {
    if (!header) throw new PindroError('not_signed_in');
    const match = /^Bearer +(\S+) *$/i.exec(header);
    if (!match) throw new PindroError(header.trim().startsWith(BEGINNING) ? 'key_without_bearer' : 'not_signed_in');
    const hash = hashOf(match[1]!);
    const access = this.#good.get(hash) ?? this.#lookUp(hash);
    this.#touch(access.id);
    return access;
  }

  list(): KeySummary[] {
    return this.database.select().from(keys).orderBy(desc(keys.createdAt)).all().map(summarise);
  }

  summary(id: string): KeySummary {
    const row = this.database.select().from(keys).where(eq(keys.id, id)).get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'access key',
        name: id,
        suggestion: 'List them with "pindro key list".',
      });
    return summarise(row);
  }

  revoke(id: string): KeySummary {
    const known = this.summary(id);
    if (known.revokedAt === null)
      this.database.update(keys).set({ revokedAt: Date.now() }).where(eq(keys.id, id)).run();
    this.#good.clear();
    this.bus.changed('key', id);
    return this.summary(id);
  }

  #lookUp(hash: string): Access {
    const row = this.database.select().from(keys).where(eq(keys.hash, hash)).get();
    if (!row) throw new PindroError('key_unknown');
    if (row.revokedAt !== null)
      throw new PindroError('key_revoked', { name: row.name, when: iso(row.revokedAt)!.slice(0, 10) });
    const access: Access = {
      id: row.id,
      name: row.name,
      caller: { id: row.caller, attributes: row.attributes as JsonObject },
      stage: row.stage as Stage,
      endpoints: row.endpoints,
      manage: row.manage,
    };
    this.#good.set(hash, access);
    return access;
  }

  #touch(id: string): void {
    const now = Date.now();
    if (now - (this.#touched.get(id) ?? 0) < TOUCH_EVERY) return;
    this.#touched.set(id, now);
    this.database.update(keys).set({ lastUsedAt: now }).where(eq(keys.id, id)).run();
  }
}

function summarise(row: typeof keys.$inferSelect): KeySummary {
  return {
    id: row.id,
    name: row.name,
    beginning: `${row.beginning}…`,
    caller: row.caller,
    attributes: row.attributes as KeySummary['attributes'],
    stage: row.stage as Stage,
    endpoints: row.endpoints,
    manage: row.manage,
    createdAt: iso(row.createdAt)!,
    lastUsedAt: iso(row.lastUsedAt),
    revokedAt: iso(row.revokedAt),
  };
}
