import { asPindroError, PindroError, PROGRAM_TRANSPORT } from '@pindro/core';
import { askServer, type Said } from '../find.js';
import type { ServerRepository } from '../repository.js';
import type { ToolWatch } from '../watch.js';
import { CONNECT_LIMIT, type ServerConnection } from './connection.js';
import type { ConnectionPool } from './pool.js';

/** Tools that a refresh found to be new or gone. */
export interface Refreshed {
  added: string[];
  removed: string[];
}

/** Reads the tool lists of servers again. */
export class ToolRefresh {
  constructor(
    private readonly repository: ServerRepository,
    private readonly watch: ToolWatch,
    private readonly pool: ConnectionPool,
    private readonly changed: (name: string) => void,
  ) {}

  readonly #refreshing = new Map<string, Promise<Refreshed>>();

  /**
   * Refreshes the tool list; concurrent callers share one refresh. @returns the tools added and removed
   * @throws server_off, and what keeps it from answering
   */
  async refresh(given: string): Promise<Refreshed> {
    const { name, off } = this.repository.row(given);
    if (off) throw new PindroError('server_off', { server: name });
    return this.#refreshOn(name);
  }

  #refreshOn(given: string): Promise<Refreshed> {
    const name = this.repository.nameOf(given);
    const connection = this.pool.touch.connection(this.repository.row(name).name);
    const under = this.#refreshing.get(name);
    if (under) return under;
    const work = this.#readAnew(name, connection).finally(() => {
      if (this.#refreshing.get(name) === work) this.#refreshing.delete(name);
    });
    this.#refreshing.set(name, work);
    return work;
  }

  /** The tools changed, maybe while they were being read: they are read once more then. */
  toolsChanged(name: string): void {
    const under = this.#refreshing.get(name) ?? Promise.resolve();
    const again = () => (this.repository.names().includes(name) ? this.refresh(name) : undefined);
    void under.then(again, again).catch(() => {});
  }

  async #readAnew(name: string, connection: ServerConnection): Promise<Refreshed> {
    const before = this.repository.row(name).tools.map((tool) => tool.name);
    try {
      const tools = await connection.tools(AbortSignal.timeout(CONNECT_LIMIT * 2));
      const heard = { tools, about: connection.about(), instructions: connection.instructions() };
      const flags = await this.watch.lookAt(name, tools);
      // It was moved or removed: the response is discarded.
      if (!this.pool.touch.holds(name, connection)) return { added: [], removed: [] };
      const changes = this.watch.takeIn(name, heard, flags);
      if (changes.length > 0) this.pool.touch.log(name).add('pindro', `its tools changed: ${told(changes)}`, 'warning');
      this.pool.touch.well(name);
      this.changed(name);
      const after = tools.map((tool) => tool.name);
      return {
        added: after.filter((tool) => !before.includes(tool)),
        removed: before.filter((tool) => !after.includes(tool)),
      };
    } catch (thrown) {
      const error = asPindroError(thrown);
      if (!this.pool.touch.holds(name, connection)) throw error;
      if (await this.#speaksOtherwise(name, error))
        return { added: this.repository.row(name).tools.map((tool) => tool.name), removed: [] };
      throw this.pool.touch.troubled(name, error);
    }
  }

  /** How a server speaks that was never heard is found by trying, as when it is attached. */
  async #speaksOtherwise(name: string, error: PindroError): Promise<boolean> {
    if (error.code !== 'server_not_mcp') return false;
    const row = this.repository.names().includes(name) ? this.repository.row(name) : null;
    if (!row || row.seenAt !== null || row.program) return false;
    const found = await this.#askEveryWay(name).catch(() => null);
    if (!found) return false;
    const { speaks, ...heard } = found;
    this.repository.update(name, { speaks });
    this.watch.takeIn(name, heard, await this.watch.lookAt(name, heard.tools));
    await this.pool.letGo(name);
    this.pool.touch.seen(name);
    this.changed(name);
    return true;
  }

  /** How it speaks now, found by trying; null where it does in no way. */
  async speaksNow(given: string): Promise<Said['speaks'] | null> {
    const { name, program } = this.repository.row(given);
    if (program) return PROGRAM_TRANSPORT;
    const found = await this.#askEveryWay(name).catch(() => null);
    return found?.speaks ?? null;
  }

  #askEveryWay(name: string): Promise<Said> {
    const { url, limits } = this.repository.row(name);
    const reveal = () => this.pool.secrets.reveal(this.repository.row(name), url);
    return askServer({ ...this.pool.way, name, url, limits, reveal, log: this.pool.touch.log(name) });
  }

  /** What is being read of a server says nothing of where it is now. */
  forget(name: string): void {
    this.#refreshing.delete(name);
  }
}

const told = (changes: readonly { tool: string; kind: string }[]) =>
  changes
    .slice(0, 10)
    .map(({ tool, kind }) => `${tool} (${kind})`)
    .join(', ');
