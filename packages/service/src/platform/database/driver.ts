import { chmodSync, closeSync, openSync } from 'node:fs';
import { PindroError } from '@pindro/core';
import Sqlite from 'better-sqlite3';

/*
 * Every statement passes here. The driver below has sharp edges that this driver takes off: a bound boolean ends the
 * whole process, text is cut at NUL, a missing parameter silently becomes NULL, a lone null is taken for a list of
 * parameters, a single row carries the driver's own timing, and a transaction whose callback returns a promise commits
 * before its work is done. A statement on a closed database ends the process, too.
 */

type Bound = null | number | bigint | string | Buffer;

interface RawStatement {
  run(values: Bound[]): { changes: number };
  get(values: Bound[]): unknown;
  all(values: Bound[]): unknown[];
  raw(on?: boolean): RawStatement;
}
interface RawDatabase {
  prepare(sql: string): RawStatement;
  exec(sql: string): void;
  pragma(text: string): unknown;
  close(): void;
  readonly inTransaction: boolean;
}

/** A value as the driver may take it. @throws value_unsafe for what SQLite would keep wrongly */
export function bindable(value: unknown): Bound {
  switch (typeof value) {
    case 'boolean':
      return value ? 1n : 0n;
    case 'number':
      if (!Number.isFinite(value)) throw unsafe(`is ${value}, which is not a storable number`);
      // Whole numbers go in as such: the driver would bind every number as a float.
      return Number.isSafeInteger(value) ? BigInt(value) : value;
    case 'bigint':
      if (value > 2n ** 63n - 1n || value < -(2n ** 63n)) throw unsafe('is an integer beyond 64 bits');
      return value;
    case 'string':
      if (value.includes('\0')) throw unsafe('contains a NUL character, which would truncate it');
      return value;
    case 'object':
      if (value === null) return null;
      if (value instanceof Uint8Array) return Buffer.from(value);
  }
  throw unsafe(`is ${value === undefined ? 'missing' : `a ${typeof value}`}, which a table cannot store`);
}

const unsafe = (why: string) => new PindroError('value_unsafe', { where: 'a column', why });

/** How many `?` a statement has, outside of quotes and comments. */
export function countParameters(sql: string): number {
  return (sql.replace(/'(?:[^']|'')*'|"(?:[^"]|"")*"|--[^\n]*|\/\*[\s\S]*?\*\//g, '').match(/\?/g) ?? []).length;
}

/** A statement as it was prepared, shared by all whose text is the same. */
interface Prepared {
  statement: RawStatement;
  /** How many values it takes. */
  count: number;
  /** Whether it gives rows as lists now. */
  raw: boolean;
}

class Statement {
  #raw = false;
  constructor(
    private readonly prepared: Prepared,
    private readonly sql: string,
    private readonly state: { open: boolean },
  ) {}

  #bind(values: unknown[]): Bound[] {
    if (!this.state.open) throw closed();
    const { count } = this.prepared;
    if (values.length !== count)
      throw new Error(`The statement takes ${count} values, not ${values.length}: ${this.sql}`);
    return values.map(bindable);
  }

  /** The statement, which gives rows as it was asked to here. */
  get #ready(): RawStatement {
    const { prepared } = this;
    if (prepared.raw !== this.#raw) {
      prepared.statement.raw(this.#raw);
      prepared.raw = this.#raw;
    }
    return prepared.statement;
  }

  run = (...values: unknown[]) => this.prepared.statement.run(this.#bind(values));
  get = (...values: unknown[]) => bare(this.#ready.get(this.#bind(values)));
  all = (...values: unknown[]) => this.#ready.all(this.#bind(values));
  raw = (on = true) => {
    this.#raw = on;
    return this;
  };
}

/** Number of cached prepared statements, and their maximum length in characters. */
const MOST_PREPARED = 400;
const LONGEST_PREPARED = 4000;
/** What changes the shape of tables: nothing that was prepared before is of use after it. */
const RESHAPES = /^\s*(create|alter|drop|vacuum|pragma)\b/i;

/** A single row without what the driver adds to it. */
function bare(row: unknown): unknown {
  if (typeof row === 'object' && row !== null && !Array.isArray(row)) delete (row as { _metadata?: unknown })._metadata;
  return row;
}

/** The part of better-sqlite3's interface that Drizzle uses, guarded. */
export class Driver {
  readonly #database: RawDatabase;
  readonly #state = { open: true };
  #pending: (() => void)[] = [];
  readonly #undone: (() => void)[] = [];

  /** @param options.shrinks whether a new file gives back what it does not need any more, when told to */
  constructor(path: string, { shrinks = false }: { shrinks?: boolean } = {}) {
    // Files that SQLite creates next to a database have its permissions.
    closeSync(openSync(path, 'a', 0o600));
    chmodSync(path, 0o600);
    this.#database = new Sqlite(path) as unknown as RawDatabase;
    if (shrinks) this.#database.pragma('auto_vacuum = INCREMENTAL');
    this.#database.pragma('busy_timeout = 5000');
    this.#database.pragma('journal_mode = WAL');
    // With the write-ahead log, NORMAL loses nothing when the process is killed; only a power cut can cost the last commits.
    this.#database.pragma('synchronous = NORMAL');
    this.#database.pragma('foreign_keys = ON');
    this.#database.pragma('cache_size = -8000');
  }

  /** Whoever builds a query writes the same text again and again; preparing it costs more than running it. */
  readonly #prepared = new Map<string, Prepared>();

  /** Receives each statement when it is prepared; for tests of query plans. */
  static onPrepared: ((sql: string) => void) | null = null;

  prepare = (sql: string) => {
    const database = this.#raw();
    const known = this.#prepared.get(sql);
    if (!known) Driver.onPrepared?.(sql);
    const prepared = known ?? { statement: database.prepare(sql), count: countParameters(sql), raw: false };
    if (RESHAPES.test(sql)) this.#prepared.clear();
    else if (sql.length <= LONGEST_PREPARED) {
      // What was used last stands last.
      if (known) this.#prepared.delete(sql);
      this.#prepared.set(sql, prepared);
      if (this.#prepared.size > MOST_PREPARED) this.#prepared.delete(this.#prepared.keys().next().value!);
    }
    return new Statement(prepared, sql, this.#state);
  };
  exec = (sql: string) => {
    this.#prepared.clear();
    return this.#raw().exec(sql);
  };
  pragma = (text: string) => this.#raw().pragma(text);
  close = () => {
    if (!this.#state.open) return;
    this.#state.open = false;
    this.#prepared.clear();
    // This driver does not checkpoint on closing: a copy of the file alone would lose data.
    this.#checkpoint();
    this.#database.close();
  };

  /** Moves the write-ahead log into the file. Where that fails, because the disk is full, the log keeps its content. */
  #checkpoint(): void {
    try {
      this.#database.pragma('wal_checkpoint(TRUNCATE)');
    } catch {
      // The next start reads it from the log.
    }
  }

  #raw(): RawDatabase {
    if (!this.#state.open) throw closed();
    return this.#database;
  }

  /** Runs after the open transaction is on disk, or immediately without one. Dropped on rollback. */
  afterCommit(act: () => void): void {
    if (this.#state.open && this.#database.inTransaction) this.#pending.push(act);
    else act();
  }

  /** Called after each rollback. */
  afterRollback(act: () => void): void {
    this.#undone.push(act);
  }

  #settle(kept: boolean): void {
    const pending = this.#pending;
    this.#pending = [];
    if (kept) for (const act of pending) act();
    else for (const act of this.#undone) act();
  }

  /** Runs the work in one transaction, or within the one that is open. */
  transaction = <A extends unknown[], T>(work: (...args: A) => T) => {
    const run =
      (begin: string) =>
      (...args: A): T => {
        if (this.#raw().inTransaction) return refusePromise(work(...args));
        this.#database.exec(begin);
        try {
          const result = refusePromise(work(...args));
          this.#database.exec('COMMIT');
          this.#settle(true);
          return result;
        } catch (error) {
          if (this.#database.inTransaction) this.#database.exec('ROLLBACK');
          this.#settle(false);
          throw error;
        }
      };
    return { deferred: run('BEGIN'), immediate: run('BEGIN IMMEDIATE'), exclusive: run('BEGIN EXCLUSIVE') };
  };
}

const closed = () => new Error('The database is closed');

function refusePromise<T>(result: T): T {
  if (typeof (result as { then?: unknown } | null)?.then === 'function')
    throw new Error('A transaction cannot wait: its work must be synchronous');
  return result;
}
