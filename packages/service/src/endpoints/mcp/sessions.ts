import type { Access } from '../../keys/store.js';
import { randomText } from '../../platform/settings.js';
import { RpcFault } from './message.js';
import { Session, type SessionParts } from './session.js';

/** A session that nobody has used for so long, and that has no stream open, is ended. */
const IDLE = 60 * 60_000;
/** A key may hold so many sessions; the one longest unused makes room. */
const PER_KEY = 200;

/** All open sessions. */
export class Sessions {
  readonly #open = new Map<string, Session>();
  readonly #sweep = setInterval(() => this.#evict(), 60_000).unref();

  async begin(endpoint: string, access: Access, parts: SessionParts): Promise<Session> {
    const own = this.#of((session) => session.access.id === access.id);
    if (own.length >= PER_KEY) await this.end(own.sort((a, b) => a.lastUsed - b.lastUsed)[0]!.id);
    const session = new Session(randomText(32), endpoint, access, parts);
    this.#open.set(session.id, session);
    await session.open();
    return session;
  }

  /** The session, for the key it belongs to alone. @throws RpcFault 404 otherwise, as the protocol wants */
  find(id: string | undefined, endpoint: string, access: Access): Session {
    if (id === undefined)
      throw new RpcFault(
        400,
        -32600,
        'The Mcp-Session-Id header is missing. Begin with an initialize request and send back the id it answers with.',
      );
    const session = this.#open.get(id);
    if (!session || session.endpoint !== endpoint || session.access.id !== access.id)
      throw new RpcFault(404, -32001, 'There is no such session. Begin a new one with an initialize request.');
    session.lastUsed = Date.now();
    return session;
  }

  async end(id: string): Promise<void> {
    const session = this.#open.get(id);
    this.#open.delete(id);
    await session?.close();
  }

  on(endpoint: string): Session[] {
    return this.#of((session) => session.endpoint === endpoint);
  }

  all(): Session[] {
    return [...this.#open.values()];
  }

  /** Ends every session of a key, because it was revoked. */
  async endOfKey(key: string): Promise<void> {
    await Promise.all(this.#of((session) => session.access.id === key).map((session) => this.end(session.id)));
  }

  async close(): Promise<void> {
    clearInterval(this.#sweep);
    await Promise.all(this.all().map((session) => this.end(session.id)));
  }

  #of(which: (session: Session) => boolean): Session[] {
    return this.all().filter(which);
  }

  #evict(): void {
    const limit = Date.now() - IDLE;
    for (const session of this.#of((one) => one.lastUsed < limit && !one.transport.listening))
      void this.end(session.id);
  }
}
