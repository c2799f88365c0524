import {
  asPindroError,
  type JsonObject,
  PindroError,
  PROGRAM_CODES,
  type ToolResult,
  type ToolServerPort,
} from '@pindro/core';
import type { CredentialStore } from '../../credentials/store.js';
import type { CallLog } from '../connection/activity.js';
import { ServerConnection } from '../connection/connection.js';
import type { ConnectionPool } from '../connection/pool.js';
import type { ToolRefresh } from '../connection/refresh.js';
import { credentialsOf, type ServerRepository } from '../repository.js';
import { Pace } from './rate-limit.js';
import { keyOf } from './result-cache.js';
import { revealKept } from './secrets.js';

type ToolCallOptions = Parameters<ToolServerPort['call']>[3];
const metaOf = ({ trace, idempotencyKey }: ToolCallOptions): JsonObject => ({
  ...trace,
  'pindro/idempotency-key': idempotencyKey,
});

/** How long the previous secret is used before the new one is tried again, in milliseconds. */
const OLDER = 60_000;
/** Errors that say something of the server, not of one call. */
const TROUBLES: readonly string[] = ['server_unreachable', 'server_wants_key', ...PROGRAM_CODES];

interface Options {
  repository: ServerRepository;
  pool: ConnectionPool;
  refresh: ToolRefresh;
  credentials: CredentialStore;
  log: CallLog;
}

/** Calls tools of attached servers: within their rate limits, repeated where that is safe, and logged. */
export class ToolCaller {
  readonly #repository: ServerRepository;
  readonly #pool: ConnectionPool;
  readonly #credentials: CredentialStore;
  readonly #pace = new Pace();

  constructor(private readonly options: Options) {
    this.#repository = options.repository;
    this.#pool = options.pool;
    this.#credentials = options.credentials;
  }

  async call(given: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    const { name, limits, off } = this.#repository.row(given);
    if (off) throw new PindroError('server_off', { server: name }, { details: { server: name } });
    this.#repository.requireNotHeld(name, tool);
    const { credential, signal, fresh = 0 } = options;
    const key = fresh > 0 && this.#onlyReads(name, tool) ? keyOf(name, tool, args, credential) : null;
    const kept = key && this.#pool.kept.find(key, fresh);
    if (kept) return kept;
    const begun = Date.now();
    const start = performance.now();
    const noted = (code: string | null) =>
      this.options.log.note({
        ...{ server: name, tool, at: begun, took: Math.round(performance.now() - start), code },
        ...{ run: options.idempotencyKey.split('/')[0] || null, credential: credential ?? null },
      });
    try {
      const result = await this.#pace.run(name, limits, signal, () =>
        credential === undefined
          ? this.#callRepeating(name, tool, args, options)
          : this.#callFor(credential, name, tool, args, options),
      );
      noted(result.isError ? 'tool_reported_error' : null);
      if (key) this.#pool.kept.keep(key, name, result);
      return result;
    } catch (error) {
      noted(signal.aborted ? 'cancelled' : asPindroError(error).code);
      throw error;
    }
  }

  /** What may be repeated is called once more where the connection was lost under it. */
  async #callRepeating(name: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    try {
      return await this.#callOnce(name, tool, args, options);
    } catch (thrown) {
      const isLost = thrown instanceof PindroError && thrown.code === 'server_lost';
      if (!isLost || options.signal.aborted || !this.#isRepeatable(name, tool)) throw thrown;
      this.#pool.touch
        .log(name)
        .add(
          'pindro',
          `the connection was lost during the call of ${tool}; the call can be repeated safely and is retried`,
        );
      return this.#callOnce(name, tool, args, options);
    }
  }

  #says(name: string, tool: string): JsonObject {
    return this.#repository.row(name).tools.find((one) => one.name === tool)?.annotations ?? {};
  }
  #onlyReads(name: string, tool: string): boolean {
    return this.#says(name, tool).readOnlyHint === true;
  }
  #isRepeatable(name: string, tool: string): boolean {
    return this.#onlyReads(name, tool) || this.#says(name, tool).idempotentHint === true;
  }

  async #callOnce(name: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    await this.#pool.touch.ready(name, options.signal);
    const connection = this.#pool.touch.connection(name);
    try {
      const result = await connection.call(tool, args, metaOf(options), options);
      // Outcomes of a moved or removed server are ignored.
      if (this.#pool.touch.holds(name, connection)) {
        this.#pool.touch.well(name);
        this.#noteUse(name, 'taken');
      }
      return result;
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (!this.#pool.touch.holds(name, connection)) throw error;
      if (error.code === 'server_wants_key') this.#noteUse(name, 'refused');
      // Nothing began: the secret of before may still be the one that is taken there.
      if (error.code === 'server_wants_key' && this.#goesBack(name)) return this.#callOnce(name, tool, args, options);
      if (TROUBLES.includes(error.code)) throw this.#pool.touch.troubled(name, error);
      // A request tells whether only the call was lost, or the server.
      if (error.code === 'server_lost' && !this.#repository.row(name).program)
        void this.options.refresh.refresh(name).catch(() => {});
      throw error;
    }
  }

  /** Uses the previous secret for a while after the new one was rejected. @returns whether there is one */
  #goesBack(name: string): boolean {
    if (
      this.#pool.isOlder(name) ||
      !credentialsOf(this.#repository.row(name)).some((one) => this.#credentials.hasFormer(one))
    )
      return false;
    this.#pool.older.set(name, performance.now() + OLDER);
    this.#pool.touch.log(name).add('pindro', 'the new secret was rejected; using the previous one for now', 'warning');
    this.#pool.touch.hangUp(name);
    return true;
  }

  #noteUse(name: string, how: 'taken' | 'refused'): void {
    for (const one of credentialsOf(this.#repository.row(name))) this.#credentials.used(one, how);
  }

  /** Calls with a caller's own credential. Its failures do not affect the state of the server. */
  async #callFor(
    credential: string,
    name: string,
    tool: string,
    args: JsonObject,
    options: ToolCallOptions,
  ): Promise<ToolResult> {
    const { url, speaks, program, limits, network } = this.#repository.row(name);
    if (program) throw new PindroError('program_is_shared', { server: name }, { details: { server: name } });
    const reveal = () =>
      revealKept([this.#credentials.reveal(credential, { url }), this.#pool.secrets.networkOf(network, { url })]);
    const log = this.#pool.touch.log(name);
    const connection = this.#pool.own.get(
      name,
      credential,
      () => new ServerConnection({ ...this.#pool.way, name, url, speaks, limits, reveal, log }),
    );
    try {
      const result = await connection.call(tool, args, metaOf(options), options);
      this.#credentials.used(credential, 'taken');
      return result;
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (error.code !== 'server_wants_key') throw error;
      this.#credentials.used(credential, 'refused');
      throw new PindroError('own_credential_refused', { server: name, credential }, { details: { server: name } });
    }
  }
}
