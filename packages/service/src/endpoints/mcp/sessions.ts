import { createHash } from 'node:crypto';
import { PindroError } from '@pindro/core';
import { eq, lt } from 'drizzle-orm';
import type { Access } from '../../keys/store.js';
import { bestEffort } from '../../platform/database/best-effort.js';
import type { Database } from '../../platform/database/open.js';
import { randomText } from '../../platform/settings.js';
import { sessions as table } from '../tables.js';
import type { CallStreams } from './call-streams.js';
import type { Channel } from './channel.js';
import { HttpChannel } from './http-channel.js';
import { RpcFault } from './message.js';
import { Kept } from './replay-buffer.js';
import { type ClientInfo, Session, type SessionParts, shownIdOf } from './session.js';

/** A session that nobody has used for so long, and that has no stream open, is ended. */
const IDLE = 60 * 60_000;
/** One that nobody took up again after a restart is forgotten after so long. */
const FORGOTTEN = 24 * 60 * 60_000;
/** Maximum number of sessions per key; the least recently used one is ended. */
const PER_KEY = 200;
/** Maximum number of sessions in total. */
const IN_ALL = 5000;
const SWEEP = 60_000;

const hashOf = (id: string) => createHash('sha256').update(id).digest('base64url');
/** What the console calls a session by: it must not be what a client presents. */
export const shownId = (session: Session) => shownIdOf(session.id);

/** All open sessions. Those over Streamable HTTP are stored on disk too, so that they survive a restart. */
export class Sessions {
  readonly #open = new Map<string, Session>();
  readonly #byKey = new Map<string, Set<Session>>();
  readonly #kept = Kept.forAll();
  readonly #keptByKey = new Map<string, Kept>();
  readonly #sweep = setInterval(() => this.#evict(), SWEEP).unref();

  constructor(
    private readonly database: Database,
    private readonly partsFor: (endpoint: () => string, access: Access) => SessionParts,
    private readonly streams: CallStreams,
  ) {}

  /** A session that is not kept: one request over HTTP, made without any. */
  stateless(endpoint: string, access: Access): { session: Session; channel: HttpChannel } {
    const channel = new HttpChannel('stateless', this.#keptFor(access));
    return {
      session: new Session(
        { id: '', endpoint, access, channel },
        this.partsFor(() => endpoint, access),
      ),
      channel,
    };
  }

  /** @param channelOf creates its channel; Streamable HTTP if omitted */
  begin(endpoint: string, access: Access, channel?: Channel): Session {
    const longestUnused = (list: Iterable<Session>) => [...list].sort((a, b) => a.lastUsed - b.lastUsed)[0]!;
    const own = this.#byKey.get(access.id);
    if (own && own.size >= PER_KEY) this.end(longestUnused(own));
    else if (this.#open.size >= IN_ALL) this.end(longestUnused(this.#open.values()));
    return this.#add(randomText(32), endpoint, access, channel ?? null);
  }

  #keptFor({ id }: Access): Kept {
    let kept = this.#keptByKey.get(id);
    if (!kept) this.#keptByKey.set(id, (kept = this.#kept.forKey()));
    return kept.forSession();
  }

  #add(id: string, endpoint: string, access: Access, given: Channel | null, since?: number): Session {
    const parts = this.partsFor(() => session.endpoint, access);
    const channel =
      given ??
      new HttpChannel(
        'http',
        this.#keptFor(access),
        this.streams.keeperOf(hashOf(id), () => session),
      );
    const session: Session = new Session({ id, endpoint, access, channel, since }, parts);
    this.#open.set(id, session);
    const own = this.#byKey.get(access.id) ?? new Set();
    this.#byKey.set(access.id, own.add(session));
    return session;
  }

  /** Writes a session down once its client has said what it is. */
  keep(session: Session): void {
    const { id, endpoint, access, client, since, lastUsed } = session;
    const row = { hash: hashOf(id), endpoint, key: access.id, client, createdAt: since, lastUsedAt: lastUsed };
    bestEffort(() => this.database.insert(table).values(row).run());
  }

  /** The session, for the key it belongs to alone. @throws RpcFault 404 otherwise, as the protocol wants */
  find(id: string, endpoint: string, access: Access, kind: Channel['kind'] = 'http'): Session {
    const session = this.#open.get(id) ?? (kind === 'http' ? this.#revive(id, endpoint, access) : null);
    if (!session || session.endpoint !== endpoint || session.access.id !== access.id || session.channel.kind !== kind)
      throw new RpcFault(404, -32001, 'Unknown session. Start a new one with an initialize request.');
    session.lastUsed = Date.now();
    return session;
  }

  /** Takes up a session from before the service was started again. */
  #revive(id: string, endpoint: string, access: Access): Session | null {
    const row = this.database
      .select()
      .from(table)
      .where(eq(table.hash, hashOf(id)))
      .get();
    if (!row || row.endpoint !== endpoint || row.key !== access.id) return null;
    const session = this.#add(id, endpoint, access, null, row.createdAt);
    session.client = row.client as ClientInfo;
    return session;
  }

  end(session: Session, reason = new PindroError('cancelled', { what: 'The session' })): void {
    this.#forget(session, reason);
    const own = eq(table.hash, hashOf(session.id));
    bestEffort(() => this.database.delete(table).where(own).run());
    this.streams.endOf(hashOf(session.id));
  }

  #forget(session: Session, reason: PindroError): void {
    this.#open.delete(session.id);
    const own = this.#byKey.get(session.access.id);
    own?.delete(session);
    if (own?.size === 0) {
      this.#byKey.delete(session.access.id);
      this.#keptByKey.delete(session.access.id);
    }
    session.close(reason);
  }

  /** @param shown as {@link shownId} names it */
  endShown(shown: string): void {
    const session = this.all().find((one) => shownId(one) === shown);
    if (!session)
      throw new PindroError('not_found', {
        what: 'open session',
        name: shown,
        suggestion: 'It may have ended already.',
      });
    this.end(session);
  }

  on(endpoint: string): Session[] {
    return this.all().filter((session) => session.endpoint === endpoint);
  }

  all(): Session[] {
    return [...this.#open.values()];
  }

  /** Ends every session of a key, because it was revoked. */
  endOfKey(key: string): void {
    const reason = new PindroError('cancelled', { what: 'The session' });
    for (const session of this.#byKey.get(key) ?? []) this.#forget(session, reason);
    this.database.delete(table).where(eq(table.key, key)).run();
  }

  /** An endpoint was renamed; its sessions continue. */
  renamed(from: string, to: string): void {
    for (const session of this.on(from)) session.endpoint = to;
    this.database.update(table).set({ endpoint: to }).where(eq(table.endpoint, from)).run();
  }

  endOn(endpoint: string): void {
    for (const session of this.on(endpoint)) this.end(session);
    this.database.delete(table).where(eq(table.endpoint, endpoint)).run();
  }

  /** The service stops: clients may take their sessions up again when it is back. */
  close(): void {
    clearInterval(this.#sweep);
    for (const session of this.all()) {
      if (session.channel.kind === 'http')
        bestEffort(() =>
          this.database
            .update(table)
            .set({ lastUsedAt: session.lastUsed })
            .where(eq(table.hash, hashOf(session.id)))
            .run(),
        );
      this.#forget(session, new PindroError('interrupted'));
    }
  }

  #evict(): void {
    const now = Date.now();
    for (const session of this.all()) {
      const over = session.access.expiresAt !== null && session.access.expiresAt <= now;
      if (over || (session.lastUsed < now - IDLE && !session.channel.listening)) this.end(session);
    }
    const known = new Set(this.all().map((session) => hashOf(session.id)));
    const old = this.database
      .select({ hash: table.hash })
      .from(table)
      .where(lt(table.lastUsedAt, now - FORGOTTEN))
      .all();
    for (const { hash } of old)
      if (!known.has(hash)) bestEffort(() => this.database.delete(table).where(eq(table.hash, hash)).run());
  }
}
