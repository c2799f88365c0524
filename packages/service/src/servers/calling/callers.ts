import type { ServerConnection } from '../connection/connection.js';

/** A connection that nobody has used for so long is closed, in milliseconds. */
const IDLE = 10 * 60_000;
/** Maximum number of open connections; the least recently used is closed. */
const MOST = 100;

interface Held {
  server: string;
  credential: string;
  connection: ServerConnection;
  timer: NodeJS.Timeout;
}

/** Connections to tool servers with callers' own credentials: one for each, so that no session is shared. */
export class CallerConnections {
  /** In the order of their last use. */
  readonly #held = new Map<string, Held>();

  /** @param make a connection, where none is held */
  get(server: string, credential: string, make: () => ServerConnection): ServerConnection {
    const key = JSON.stringify([server, credential]);
    const held = this.#held.get(key);
    if (held) clearTimeout(held.timer);
    this.#held.delete(key);
    const connection = held?.connection ?? make();
    const timer = setTimeout(() => void this.#end((one) => one.connection === connection), IDLE).unref();
    this.#held.set(key, { server, credential, connection, timer });
    const [oldest] = this.#held.values();
    if (this.#held.size > MOST) void this.#end((one) => one === oldest);
    return connection;
  }

  /** The server has moved or is gone. */
  endOf(server: string): Promise<void> {
    return this.#end((held) => held.server === server);
  }

  /** The credential has another secret. */
  endWith(credential: string): Promise<void> {
    return this.#end((held) => held.credential === credential);
  }

  close(): Promise<void> {
    return this.#end(() => true);
  }

  async #end(which: (held: Held) => boolean): Promise<void> {
    for (const [key, held] of this.#held) {
      if (!which(held)) continue;
      this.#held.delete(key);
      clearTimeout(held.timer);
      await held.connection.close();
    }
  }
}
