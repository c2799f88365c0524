import { createHash } from 'node:crypto';
import type { KeySummary, Stage } from '@pindro/contract';
import { type Caller, type JsonObject, milliseconds, PindroError } from '@pindro/core';
import { desc, eq } from 'drizzle-orm';
import { type Clocks, PLAIN_CLOCKS } from '../platform/clock.js';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { randomText } from '../platform/settings.js';
import { HOST } from '../policy/authority.js';
import { type KeyPermit, permitKeys } from '../policy/keys.js';
import { keys } from './tables.js';

/** A key that was presented and is good. */
export interface Access {
  id: string;
  name: string;
  caller: Caller;
  stage: Stage;
  endpoints: string[];
  /** The only tools it opens; null means all. */
  tools: string[] | null;
  readOnly: boolean;
  perMinute: number | null;
  /** Whether it may read flows whole and propose changes on the workshop. */
  propose: boolean;
  /** When it ends, in milliseconds since the epoch, or null. */
  expiresAt: number | null;
  manage: boolean;
}

/** A key without restrictions grants no access by itself. */
export const UNLIMITED = {
  tools: null,
  readOnly: false,
  perMinute: null,
  propose: false,
  expiresAt: null,
  manage: false,
} as const;

/** A key that was presented, with the state of all keys at that moment. */
export interface Presented {
  readonly access: Access;
  readonly epoch: number;
}

export interface NewKey {
  name: string;
  caller?: string | undefined;
  attributes: JsonObject;
  stage: Stage;
  endpoints: string[];
  tools?: string[] | undefined;
  readOnly?: boolean | undefined;
  perMinute?: number | undefined;
  propose?: boolean | undefined;
  credentials?: Record<string, string> | undefined;
  /** After a duration such as 90d. */
  expires?: string | undefined;
  manage: boolean;
}

/** Changeable settings of a key; omitted ones remain. */
export interface KeyChange extends Partial<Omit<NewKey, 'tools' | 'perMinute' | 'expires' | 'manage'>> {
  tools?: string[] | null | undefined;
  perMinute?: number | null | undefined;
  expires?: string | null | undefined;
}

const BEGINNING = 'pindro_';
const LENT = 'lent-';
/** When a key was last used is written at most this often. */
const TOUCH_EVERY = 60_000;
const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

/** @throws request_invalid */
function requireDuration(text: string, at: string): number {
  try {
    return milliseconds(text);
  } catch (error) {
    throw new PindroError('request_invalid', { why: (error as Error).message }, { at });
  }
}

// A key is 256 random bits, so that a plain hash is as good as a slow one, and looking it up tells nothing by its time.
const hashOf = (key: string) => createHash('sha256').update(key).digest('base64url');

export class KeyStore {
  readonly #good = new Map<string, Access>();
  readonly #lent = new Map<string, Access>();
  readonly #touched = new Map<string, number>();
  /** Newest first; null until somebody asks, and after a change. There may be thousands. */
  #listed: KeySummary[] | null = null;
  #epoch = 0;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly clocks: Clocks = PLAIN_CLOCKS,
  ) {
    bus.on('undone', () => this.#changed());
    // Reading thousands for the first time takes a while: better now than while somebody waits.
    this.list();
    bus.on('removing', (what, id, { take, needs }) => {
      if (what !== 'key') return;
      if (this.#row(id).manage) needs('owner');
      take('keys', { id });
      this.#changed();
    });
    bus.on('renamed', (what, from, to) => {
      if (what === 'server' || what === 'credential') this.#follow(what, from, to);
      // A hook is opened by its kind and path, as an endpoint is by its name.
      if (what === 'entry') this.endpointRenamed(from, to);
    });
  }

  /** Credentials of holders' own, and the servers they are for, go by another name. */
  #follow(what: 'server' | 'credential', from: string, to: string): void {
    const call = (name: string) => (name === from ? to : name);
    for (const { id, credentials } of this.database.select().from(keys).all()) {
      const now = Object.entries(credentials).map(([server, name]) =>
        what === 'server' ? [call(server), name] : [server, call(name)],
      );
      if (now.some(([server, name]) => credentials[server!] !== name))
        this.database
          .update(keys)
          .set({ credentials: Object.fromEntries(now) })
          .where(eq(keys.id, id))
          .run();
    }
    this.#changed();
  }

  /** @returns the key itself, this once, and what is kept of it @throws role_too_low */
  issue(given: NewKey, permit: KeyPermit): { key: string; summary: KeySummary } {
    requireCovered(permit, given.manage);
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
        tools: given.tools ?? null,
        readOnly: given.readOnly ?? false,
        perMinute: given.perMinute ?? null,
        propose: given.propose ?? false,
        credentials: given.credentials ?? {},
        expiresAt:
          given.expires === undefined ? null : this.clocks.expiry() + requireDuration(given.expires, '/expires'),
        manage: given.manage,
        createdAt: Date.now(),
      })
      .run();
    const summary = this.summary(id);
    // One more key is no reason to read all of them again.
    this.#listed?.unshift(summary);
    this.bus.changed('key', id);
    return { key, summary };
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
    const lent = this.#lent.get(hash);
    if (lent) return lent;
    const access = this.#good.get(hash) ?? this.#lookUp(hash);
    if (access.expiresAt !== null && access.expiresAt <= this.clocks.expiry())
      throw new PindroError('key_expired', { name: access.name, when: iso(access.expiresAt)!.slice(0, 16) });
    this.#touch(access.id);
    return access;
  }

  /** As {@link present}, and what tells later whether it still holds. @throws as that does */
  hold(header: string | undefined): Presented {
    return { access: this.present(header), epoch: this.#epoch };
  }

  /** Whether what was presented before is still good, so that the same need not be looked up again. */
  isStill({ access, epoch }: Presented): boolean {
    if (epoch !== this.#epoch || (access.expiresAt !== null && access.expiresAt <= this.clocks.expiry())) return false;
    if (!access.id.startsWith(LENT)) this.#touch(access.id);
    return true;
  }

  /** Some key opens another thing than before, or nothing any more. */
  #changed(): void {
    this.#good.clear();
    this.#listed = null;
    this.#epoch++;
  }

  /** Whether a key still opens anything. */
  isGood(id: string): boolean {
    const row = this.database.select().from(keys).where(eq(keys.id, id)).get();
    if (!row) return false;
    const { revokedAt, expiresAt } = row;
    return revokedAt === null && (expiresAt === null || expiresAt > this.clocks.expiry());
  }

  /** @throws role_too_low where the permit does not cover a key */
  requireCovered(id: string, permit: KeyPermit): void {
    requireCovered(permit, this.#row(id).manage);
  }

  list(): KeySummary[] {
    this.#listed ??= this.database.select().from(keys).orderBy(desc(keys.createdAt)).all().map(summarise);
    return this.#listed;
  }

  summary(id: string): KeySummary {
    return summarise(this.#row(id));
  }

  #row(id: string) {
    const row = this.database.select().from(keys).where(eq(keys.id, id)).get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'access key',
        name: id,
        suggestion: 'List them with "pindro key list".',
      });
    return row;
  }

  /** Keys whose holder brings a credential along, as words for people. */
  usersOf(credential: string): string[] {
    return this.list()
      .filter(({ revokedAt, credentials }) => revokedAt === null && Object.values(credentials).includes(credential))
      .map(({ name }) => `key "${name}"`);
  }

  /** Keys whose holder brings a credential for a server along. */
  usersOfServer(server: string): string[] {
    return this.list()
      .filter(({ revokedAt, credentials }) => revokedAt === null && Object.hasOwn(credentials, server))
      .map(({ name }) => `key "${name}"`);
  }

  /** Good keys that open an endpoint by its name. */
  opening(endpoint: string): string[] {
    return this.list()
      .filter(({ revokedAt, endpoints }) => revokedAt === null && endpoints.includes(endpoint))
      .map(({ name }) => `key "${name}"`);
  }

  /** Changes the name and scope of a key. Omitted settings and the key itself remain. */
  change(id: string, { expires, ...change }: KeyChange, permit: KeyPermit): KeySummary {
    requireCovered(permit, this.#row(id).manage);
    const values = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
    const expiresAt = typeof expires === 'string' ? this.clocks.expiry() + requireDuration(expires, '/expires') : null;
    const all = { ...values, ...(expires !== undefined && { expiresAt }) };
    if (Object.keys(all).length > 0) this.database.update(keys).set(all).where(eq(keys.id, id)).run();
    this.#changed();
    this.bus.changed('key', id);
    return this.summary(id);
  }

  /** Issues a key that opens the same, for somebody else. */
  copy(id: string, name: string, caller: string, permit: KeyPermit): { key: string; summary: KeySummary } {
    return this.issue({ ...this.#like(this.#row(id)), name, caller }, permit);
  }

  #like(row: typeof keys.$inferSelect): NewKey {
    return {
      name: row.name,
      caller: row.caller,
      attributes: row.attributes as JsonObject,
      stage: row.stage as Stage,
      endpoints: row.endpoints,
      tools: row.tools ?? undefined,
      readOnly: row.readOnly,
      perMinute: row.perMinute ?? undefined,
      propose: row.propose,
      credentials: row.credentials,
      manage: row.manage,
    };
  }

  revoke(id: string, permit: KeyPermit): KeySummary {
    const known = this.summary(id);
    requireCovered(permit, known.manage);
    if (known.revokedAt === null)
      this.database.update(keys).set({ revokedAt: Date.now() }).where(eq(keys.id, id)).run();
    this.#changed();
    this.bus.changed('key', id);
    return this.summary(id);
  }

  /** A key for a moment, which is kept nowhere; for trying out what a holder of one would meet. @returns it, and how to end it */
  lend(access: Omit<Access, 'id'>): { key: string; end: () => void } {
    const key = BEGINNING + randomText(43);
    const hash = hashOf(key);
    this.#lent.set(hash, { ...access, id: LENT + randomText(8) });
    const end = () => {
      this.#lent.delete(hash);
      this.#changed();
    };
    return { key, end };
  }

  /** A key that opens the same. The old one ends after the overlap, or sooner where it was to end sooner. */
  rotate(id: string, overlap: string, permit: KeyPermit): { key: string; summary: KeySummary } {
    const row = this.#row(id);
    if (row.revokedAt !== null)
      throw new PindroError('key_revoked', { name: row.name, when: iso(row.revokedAt)!.slice(0, 10) });
    const until = this.clocks.expiry() + requireDuration(overlap, '/overlap');
    const fresh = this.issue(this.#like(row), permit);
    const expiresAt = Math.min(until, row.expiresAt ?? until);
    this.database.update(keys).set({ expiresAt }).where(eq(keys.id, id)).run();
    if (row.expiresAt !== null)
      this.database
        .update(keys)
        .set({ expiresAt: this.clocks.expiry() + (row.expiresAt - row.createdAt) })
        .where(eq(keys.id, fresh.summary.id))
        .run();
    this.#changed();
    return { key: fresh.key, summary: this.summary(fresh.summary.id) };
  }

  /** An endpoint goes by another name: keys that open it still do. */
  endpointRenamed(from: string, to: string): void {
    for (const row of this.database.select().from(keys).all()) {
      if (!row.endpoints.includes(from)) continue;
      const endpoints = row.endpoints.map((name) => (name === from ? to : name));
      this.database.update(keys).set({ endpoints }).where(eq(keys.id, row.id)).run();
    }
    this.#changed();
  }

  #lookUp(hash: string): Access {
    const row = this.database.select().from(keys).where(eq(keys.hash, hash)).get();
    if (!row) throw new PindroError('key_unknown');
    if (row.revokedAt !== null)
      throw new PindroError('key_revoked', { name: row.name, when: iso(row.revokedAt)!.slice(0, 10) });
    const access: Access = {
      id: row.id,
      name: row.name,
      caller: {
        id: row.caller,
        attributes: row.attributes as JsonObject,
        ...(Object.keys(row.credentials).length > 0 && { credentials: row.credentials }),
      },
      stage: row.stage as Stage,
      endpoints: row.endpoints,
      tools: row.tools,
      readOnly: row.readOnly,
      perMinute: row.perMinute,
      propose: row.propose,
      expiresAt: row.expiresAt,
      manage: row.manage,
    };
    this.#good.set(hash, access);
    return access;
  }

  #touch(id: string): void {
    const now = Date.now();
    if (now - (this.#touched.get(id) ?? 0) < TOUCH_EVERY) return;
    this.#touched.set(id, now);
    const listed = this.#listed?.find((one) => one.id === id);
    if (listed) listed.lastUsedAt = iso(now);
    // Prepared: building the query for each of thousands of callers takes ten times as long.
    const touch = 'UPDATE keys SET last_used_at = ? WHERE id = ?';
    bestEffort(() => this.database.driver.prepare(touch).run(now, id));
  }
}

/** @throws role_too_low where a permit of less than an owner meets a key that opens the API */
function requireCovered(permit: KeyPermit, manage: boolean): void {
  if (manage && !permit.manages)
    throw new PindroError('role_too_low', { name: permit.by.name, role: permit.by.role, needed: 'owner' });
}

/** The keys as the process that runs the service has them: it does what an owner may. */
export class HostKeys {
  constructor(private readonly store: KeyStore) {}

  issue(given: NewKey): { key: string; summary: KeySummary } {
    return this.store.issue(given, permitKeys(HOST));
  }
  revoke(id: string): KeySummary {
    return this.store.revoke(id, permitKeys(HOST));
  }
  change(id: string, change: KeyChange): KeySummary {
    return this.store.change(id, change, permitKeys(HOST));
  }
  present(header: string): Access {
    return this.store.present(header);
  }
  list(): KeySummary[] {
    return this.store.list();
  }
  isGood(id: string): boolean {
    return this.store.isGood(id);
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
    tools: row.tools,
    readOnly: row.readOnly,
    perMinute: row.perMinute,
    propose: row.propose,
    credentials: row.credentials,
    expiresAt: iso(row.expiresAt),
    manage: row.manage,
    createdAt: iso(row.createdAt)!,
    lastUsedAt: iso(row.lastUsedAt),
    revokedAt: iso(row.revokedAt),
  };
}
